import { useMemo, useRef } from 'react';
import { memoryBytes, samplesOf, type Instrument } from '#core/catalogue/index.ts';
import { gainToDb } from '#core/units/index.ts';
import { setStyle, useFrame } from '../../ui/use-frame.ts';
import { meters } from '../../sound/performance-state.ts';
import { beginGesture, edit, endGesture, useOwnedBy, type Item } from '../../state/documents.ts';
import { decibels } from '../../ui/decibels.ts';
import { GroupTitle } from '../../ui/heading.tsx';
import { Ruler } from '../../ui/ruler.tsx';
import { megabytes } from '../../ui/megabytes.ts';

/** The microphone positions of a track: level, meter and cost of each, and the finer settings. */
export function PositionsPane({
  track,
  instrument,
  mayEdit,
}: {
  track: Item<'track'>;
  instrument: Instrument;
  mayEdit: boolean;
}) {
  const mixes = useOwnedBy('positionMix', track.id);
  const bytes = useMemo(
    () =>
      instrument.positions.map(({ id }) =>
        memoryBytes(
          instrument,
          new Set(instrument.articulations.flatMap((one) => [...samplesOf(one, [id])])),
        ),
      ),
    [instrument],
  );
  return (
    <>
      <GroupTitle>Positions</GroupTitle>
      {instrument.positions.map((position, i) => {
        const mix = mixes.find((candidate) => candidate.positionId === position.id);
        if (!mix) return null;
        return (
          <PositionRuler
            key={mix.id}
            track={track}
            index={i}
            name={position.name}
            mix={mix}
            bytes={bytes[i]}
            mayEdit={mayEdit}
          />
        );
      })}
    </>
  );
}

function PositionRuler({
  track,
  index,
  name,
  mix,
  bytes,
  mayEdit,
}: {
  track: Item<'track'>;
  index: number;
  name: string;
  mix: Item<'positionMix'>;
  bytes: number;
  mayEdit: boolean;
}) {
  const meter = useRef<HTMLDivElement>(null);
  const shown = useRef(0);
  useFrame(() => {
    const peak = meters.tracks[track.id]?.positions[index] ?? 0;
    const db = Math.max(-60, gainToDb(peak));
    shown.current = Math.max(0, (db + 60) / 60, shown.current - 0.02);
    setStyle(meter.current, 'width', `${Math.min(100, shown.current * 100)}%`);
  });
  const change = (label: string, fields: Record<string, unknown>, merge?: string) =>
    edit(label, [{ kind: 'positionMix', id: mix.id, op: 'update', fields }], merge);
  return (
    <div className="mb-1.5">
      <Ruler
        label={name}
        value={mix.levelDb}
        low={-60}
        high={12}
        rest={0}
        step={1}
        unit="dB"
        format={decibels}
        disabled={!mayEdit}
        help={`Level of the ${name.toLowerCase()} microphones; holds ${megabytes(bytes)} of memory.`}
        onChange={(levelDb) => change(`Level of ${name}`, { levelDb }, `level ${mix.id}`)}
        onGesture={(phase) => (phase === 'begin' ? beginGesture(`Level of ${name}`) : endGesture())}
      />
      <div className="-mt-0.5 flex items-center gap-1.5 text-xs text-ink-3">
        <div
          className="h-[3px] flex-1 bg-rule-soft"
          aria-hidden
          title="What these microphones contribute now"
        >
          <div ref={meter} className="h-full bg-ink-3" />
        </div>
        <span>{megabytes(bytes)}</span>
        <button
          type="button"
          disabled={!mayEdit}
          aria-pressed={mix.muted}
          aria-label={`Mute ${name}`}
          title="Mute"
          onClick={() => change(`Mute ${name}`, { muted: !mix.muted })}
          className={`grid size-6 place-items-center ${mix.muted ? 'rounded-sm bg-warm-tint font-bold text-warm' : ''}`}
        >
          m
        </button>
        <button
          type="button"
          disabled={!mayEdit}
          aria-pressed={mix.inverted}
          aria-label={`Turn the polarity of ${name}`}
          title="Polarity"
          onClick={() => change(`Polarity of ${name}`, { inverted: !mix.inverted })}
          className={`grid size-6 place-items-center ${mix.inverted ? 'rounded-sm bg-straw-tint font-bold text-straw' : ''}`}
        >
          ø
        </button>
      </div>
      <details className="text-xs">
        <summary className="min-h-6 cursor-pointer pt-1 text-ink-3">pan, width, delay</summary>
        <Ruler
          compact
          label="Pan"
          value={mix.pan * 100}
          low={-100}
          high={100}
          rest={0}
          step={10}
          format={(v) => (Math.round(v) === 0 ? 'middle' : `${Math.abs(Math.round(v))} ${v < 0 ? 'L' : 'R'}`)}
          disabled={!mayEdit}
          help="Balance of left and right, constant power. Costs nothing."
          onChange={(v) => change('Pan', { pan: v / 100 }, `pan ${mix.id}`)}
        />
        <Ruler
          compact
          label="Width"
          value={mix.width * 100}
          low={0}
          high={200}
          rest={100}
          step={10}
          unit="%"
          disabled={!mayEdit}
          help="0 % is mono, 100 % as recorded. Costs nothing."
          onChange={(v) => change('Width', { width: v / 100 }, `width ${mix.id}`)}
        />
        <Ruler
          compact
          label="Delay"
          value={mix.delayMs}
          low={0}
          high={100}
          rest={0}
          step={1}
          unit="ms"
          disabled={!mayEdit}
          help="Lets these microphones arrive later; planned leads take it into account."
          onChange={(delayMs) => change('Delay', { delayMs }, `delay ${mix.id}`)}
        />
      </details>
    </div>
  );
}
