import { AddToLineUp } from './add-to-line-up.tsx';
import { Download, Play, Power, X } from 'lucide-react';
import type { ArticulationSummary, InstrumentSummary } from '#api/index.ts';
import { pitchName, isBlackKey } from '#core/music/index.ts';
import { unloadArticulation, wantArticulation, type LoadState } from '../../sound/instruments.ts';
import { useMayEdit } from '../../state/session.ts';
import { switchArticulation } from '../../state/shelf.ts';
import { Button } from '../../ui/button.tsx';
import { megabytes } from '../../ui/megabytes.ts';

const RAIL = 64;

/** Keys an instrument spans, a little wider than its notes. */
function spanOf(instrument: InstrumentSummary): { low: number; high: number } {
  const low = Math.min(...instrument.articulations.map((one) => one.low));
  const high = Math.max(...instrument.articulations.map((one) => one.high));
  return { low: Math.max(0, low - 2), high: Math.min(127, Math.max(high, low + 11) + 2) };
}

/** Every technique: pressed it plays; its range on the keyboard above, drawn to the same scale; what it holds and costs. */
export function TechniqueList({
  instrument,
  load,
  off,
  sounding,
  onHear,
}: {
  instrument: InstrumentSummary;
  load: LoadState | undefined;
  off: ReadonlySet<string>;
  sounding: string | undefined;
  onHear: (articulation: ArticulationSummary) => void;
}) {
  const span = spanOf(instrument);
  return (
    <div role="table" aria-label="Techniques">
      <div
        role="row"
        className="grid grid-cols-[minmax(0,1fr)_64px_44px_32px_72px] items-end gap-x-1 pb-0.5 text-xs text-ink-3"
      >
        <span role="columnheader">press to hear</span>
        <span role="columnheader">
          <KeyStrip {...span} />
        </span>
        <span role="columnheader" title="Loudness layers × takes" className="text-right leading-tight">
          layers × takes
        </span>
        <span role="columnheader" className="text-right">
          MB
        </span>
        <span role="columnheader">
          <span className="sr-only">Memory</span>
        </span>
      </div>
      {instrument.articulations.map((articulation) => (
        <TechniqueRow
          key={articulation.id}
          instrumentId={instrument.id}
          articulation={articulation}
          span={span}
          loaded={load?.wanted.has(articulation.id) ?? false}
          off={off.has(articulation.id)}
          sounding={sounding === articulation.id}
          onHear={onHear}
        />
      ))}
    </div>
  );
}

function TechniqueRow({
  instrumentId,
  articulation,
  span,
  loaded,
  off,
  sounding,
  onHear,
}: {
  instrumentId: string;
  articulation: ArticulationSummary;
  span: { low: number; high: number };
  loaded: boolean;
  off: boolean;
  sounding: boolean;
  onHear: (articulation: ArticulationSummary) => void;
}) {
  const mayEdit = useMayEdit();
  const { id, name } = articulation;
  return (
    <div
      role="row"
      className={`grid grid-cols-[minmax(0,1fr)_64px_44px_32px_72px] items-center gap-x-1 border-b border-rule-soft ${sounding ? 'bg-cool-tint' : ''} ${off ? 'text-ink-3' : ''}`}
    >
      <span role="cell" className="min-w-0">
        <button
          type="button"
          disabled={off}
          onClick={() => onHear(articulation)}
          aria-label={`Hear ${name}`}
          title={name === id ? undefined : `“${name}” is ${id} in the house vocabulary`}
          className="flex min-h-[25px] w-full items-center gap-1.5 text-left hover:text-cool disabled:hover:text-ink-3"
        >
          <Play size={10} aria-hidden className={`shrink-0 ${sounding ? 'text-cool' : 'text-ink-3'}`} />
          <span
            className={`min-w-0 font-serif leading-tight break-words italic ${off ? 'line-through' : ''}`}
          >
            {name}
          </span>
        </button>
      </span>
      <span role="cell">
        <RangeRail articulation={articulation} span={span} />
      </span>
      <span role="cell" className="text-right text-xs text-ink-2">
        {articulation.layers} × {articulation.takes}
      </span>
      <span role="cell" className={`text-right text-xs ${loaded ? 'font-semibold text-cool' : 'text-ink-2'}`}>
        {(articulation.bytes / 1e6).toFixed(1)}
      </span>
      <span role="cell" className="flex justify-end">
        <AddToLineUp small instrumentId={instrumentId} articulation={id} name={name} />
        {!off && (
          <Button
            look="icon"
            aria-label={loaded ? `Unload ${name}` : `Load ${name}`}
            title={
              loaded ? `Let go of ${megabytes(articulation.bytes)}` : `Load ${megabytes(articulation.bytes)}`
            }
            onClick={() =>
              loaded
                ? void unloadArticulation(instrumentId, id)
                : void wantArticulation(instrumentId, id).catch(() => undefined)
            }
            className={loaded ? 'text-cool!' : ''}
          >
            {loaded ? <X size={13} aria-hidden /> : <Download size={12} aria-hidden />}
          </Button>
        )}
        <Button
          look="icon"
          disabled={!mayEdit}
          aria-pressed={!off}
          aria-label={off ? `Switch ${name} on` : `Switch ${name} off`}
          title={
            off
              ? 'Switched off: it is never loaded. Press to switch it on'
              : 'Switch off, so that it is never loaded'
          }
          onClick={() => switchArticulation(instrumentId, id, off)}
          className={off ? 'text-warm!' : ''}
        >
          <Power size={12} aria-hidden />
        </Button>
      </span>
    </div>
  );
}

const scale =
  ({ low, high }: { low: number; high: number }) =>
  (key: number) =>
    ((key - low) / (high + 1 - low)) * RAIL;

/** The keys, to the scale of the rails below them; C is marked. */
function KeyStrip(span: { low: number; high: number }) {
  const x = scale(span);
  const keys = Array.from({ length: span.high - span.low + 1 }, (_, i) => span.low + i);
  const width = RAIL / keys.length;
  const octaves = keys.filter((key) => key % 12 === 0 && x(key) < RAIL - 17);
  // Names that would touch each other are left out.
  const labelled = octaves.filter((_, i) => i % Math.max(1, Math.ceil(22 / (12 * width))) === 0);
  return (
    <svg width={RAIL} height={28} aria-hidden className="block">
      <rect x={0.5} y={13.5} width={RAIL - 1} height={13} fill="var(--white-key)" stroke="var(--rule)" />
      {keys.filter(isBlackKey).map((key) => (
        <rect
          key={key}
          x={x(key)}
          y={14}
          width={Math.max(1, width * 0.8)}
          height={8}
          fill="var(--black-key)"
        />
      ))}
      {keys
        .filter((key) => key % 12 === 0)
        .map((key) => (
          <path key={key} d={`M${x(key)} 13V27`} stroke="var(--ink-3)" />
        ))}
      {labelled.map((key) => (
        <text key={key} x={x(key)} y={11} fontSize={12} fill="var(--ink-3)">
          {pitchName(key)}
        </text>
      ))}
    </svg>
  );
}

/** Range of a technique: a bracketed line; where moves between pitches were recorded it is double. */
function RangeRail({
  articulation,
  span,
}: {
  articulation: ArticulationSummary;
  span: { low: number; high: number };
}) {
  const x = scale(span);
  const { low, high, transitions, movesLow, movesHigh } = articulation;
  const text =
    `${pitchName(low)} to ${pitchName(high)}` +
    (transitions > 0
      ? `; ${transitions} recorded moves, to ${pitchName(movesLow)} … ${pitchName(movesHigh)}`
      : '');
  const from = x(low);
  const to = x(high + 1);
  return (
    <svg width={RAIL} height={13} role="img" aria-label={text} className="block">
      <title>{text}</title>
      <path d={`M${from + 0.5} 3V10M${to - 0.5} 3V10M${from} 6.5H${to}`} stroke="var(--ink)" fill="none" />
      {transitions > 0 && (
        <path d={`M${x(movesLow)} 9.5H${x(movesHigh + 1)}`} stroke="var(--cool)" strokeWidth={2} />
      )}
    </svg>
  );
}
