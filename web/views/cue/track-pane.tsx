import { useRef } from 'react';
import { samplesOf, memoryBytes, type Instrument } from '#core/catalogue/index.ts';
import { findingsOf, soundsOf } from '#core/performance/index.ts';
import { initialKeymap } from '#core/keymap/index.ts';
import { gainToDb } from '#core/units/index.ts';
import { toast } from 'sonner';
import { request } from '../../state/api-client.ts';
import type { Edit } from '../../state/diff.ts';
import {
  beginGesture,
  edit,
  endGesture,
  useDocuments,
  useItem,
  useList,
  type Item,
} from '../../state/documents.ts';
import { useLibraries } from '../../state/libraries.ts';
import { useMayEdit } from '../../state/session.ts';
import { useInstruments } from '../../sound/instruments.ts';
import { meters, metreOf, usePerformance } from '../../sound/performance.ts';
import { useFrame } from '../../app/top-line.tsx';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { Ruler } from '../../ui/ruler.tsx';
import { FamilyTag } from '../../ui/tag.tsx';
import { useEditor } from './editor/editor-state.ts';
import { removeSelected, selectedNotes, setVelocity } from './editor/part-edits.ts';
import { KeymapList } from './keymap-list.tsx';

const DB = (value: number) => (value <= -60 ? '−∞' : value.toFixed(1).replace('-', '−'));

/** Everything about one track: instrument, positions, hall, connected playing, keymap, findings. */
export function TrackPane({ track }: { track: Item<'track'> }) {
  const mayEdit = useMayEdit();
  const load = useInstruments((state) => (track.instrumentId ? state.loads[track.instrumentId] : undefined));
  const change = (label: string, fields: Record<string, unknown>, merge?: string) =>
    edit(label, [{ kind: 'track', id: track.id, op: 'update', fields }], merge);
  const gesture = (label: string) => (phase: 'begin' | 'end') =>
    phase === 'begin' ? beginGesture(label) : endGesture();
  return (
    <>
      <div className="flex items-center gap-2">
        <FamilyTag family={track.family} />
        <input
          aria-label="Name of the track"
          className="w-full min-w-0 rounded-sm border border-transparent bg-transparent font-serif text-xl font-semibold hover:border-rule focus:border-rule focus:bg-raised"
          value={track.name}
          maxLength={120}
          disabled={!mayEdit}
          onChange={(event) =>
            event.target.value.trim() !== '' &&
            change('Rename the track', { name: event.target.value }, 'name')
          }
        />
      </div>
      <InstrumentChoice track={track} mayEdit={mayEdit} />
      <SelectionPane mayEdit={mayEdit} />
      {load && <Positions track={track} instrument={load.instrument} mayEdit={mayEdit} />}
      <GroupTitle>Track</GroupTitle>
      <Ruler
        label="Level"
        value={track.gainDb}
        low={-60}
        high={12}
        rest={0}
        step={1}
        unit="dB"
        format={DB}
        disabled={!mayEdit}
        help="Level of the whole track, after its positions. Costs nothing."
        onChange={(gainDb) => change('Track level', { gainDb }, 'gain')}
        onGesture={gesture('Track level')}
      />
      <Ruler
        label="Hall"
        value={track.hallSendDb}
        low={-60}
        high={12}
        rest={-14}
        step={1}
        unit="dB"
        format={DB}
        disabled={!mayEdit}
        help="How much of the track sounds in the shared hall. The hall is computed once for all tracks."
        onChange={(hallSendDb) => change('Hall send', { hallSendDb }, 'hall')}
        onGesture={gesture('Hall send')}
      />
      <div className="mt-1">
        <Choice
          label="Connected"
          value={track.mode}
          disabled={!mayEdit}
          title="Planned: moves begin early, so that the new pitch lands on its beat. Natural: moves begin on the beat. Immediate: only the end of a move is heard, on the beat."
          onChange={(event) => change('Connected playing', { mode: event.target.value })}
          options={[
            { value: 'planned', text: 'planned' },
            { value: 'natural', text: 'natural' },
            { value: 'immediate', text: 'immediate' },
          ]}
        />
      </div>
      {load && <KeymapList track={track} instrument={load.instrument} mayEdit={mayEdit} />}
      <Planned track={track} />
      <HallPane mayEdit={mayEdit} />
    </>
  );
}

function InstrumentChoice({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  const { libraries } = useLibraries();
  const triggers = useList('trigger');
  const positions = useList('positionMix');
  const options = (libraries ?? []).flatMap((library) =>
    library.instruments.map((instrument) => ({
      value: instrument.id,
      text: `${instrument.name} · ${library.name}`,
    })),
  );
  const choose = async (instrumentId: string) => {
    try {
      const instrument = await request<Instrument>('GET', `/instruments/${instrumentId}`);
      const edits: Edit[] = [
        {
          kind: 'track',
          id: track.id,
          op: 'update',
          fields: {
            instrumentId,
            family: instrument.family,
            articulation:
              instrument.articulations.find((a) => a.id !== 'connected')?.id ??
              instrument.articulations[0].id,
          },
        },
        ...triggers
          .filter((t) => t.trackId === track.id)
          .map((t): Edit => ({ kind: 'trigger', id: t.id, op: 'remove' })),
        ...positions
          .filter((p) => p.trackId === track.id)
          .map((p): Edit => ({ kind: 'positionMix', id: p.id, op: 'remove' })),
        ...initialKeymap(instrument).map((t): Edit => ({
          kind: 'trigger',
          id: crypto.randomUUID(),
          op: 'add',
          fields: { ...t, trackId: track.id },
        })),
        ...instrument.positions.map((p): Edit => ({
          kind: 'positionMix',
          id: crypto.randomUUID(),
          op: 'add',
          fields: {
            trackId: track.id,
            positionId: p.id,
            levelDb: -6,
            pan: 0,
            width: 1,
            delayMs: 0,
            muted: false,
            inverted: false,
          },
        })),
      ];
      edit('Choose the instrument', edits);
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  const known = options.some((option) => option.value === track.instrumentId);
  const missing = track.instrumentId !== null && libraries !== undefined && !known;
  return (
    <>
      <Choice
        label="Instrument"
        hideLabel
        className="mt-1 w-full"
        disabled={!mayEdit}
        value={known ? (track.instrumentId ?? '') : ''}
        onChange={(event) => void choose(event.target.value)}
        options={[
          ...(known ? [] : [{ value: '', text: missing ? 'being recorded …' : 'Choose an instrument …' }]),
          ...options,
        ]}
      />
      {missing && (
        <Notice tone="straw">
          The instrument of this track is not here yet. It appears by itself when its recording is finished.
        </Notice>
      )}
    </>
  );
}

function SelectionPane({ mayEdit }: { mayEdit: boolean }) {
  const selection = useEditor((state) => state.selection);
  const markId = useEditor((state) => state.markId);
  useDocuments((state) => state.records.note);
  const notes = selectedNotes();
  if (selection.size === 0 && !markId) return null;
  return (
    <>
      <GroupTitle>
        {notes.length > 0
          ? `${notes.length} ${notes.length === 1 ? 'note' : 'notes'} selected`
          : 'Mark selected'}
      </GroupTitle>
      {notes.length > 0 && (
        <Ruler
          label="Velocity"
          value={notes.reduce((sum, note) => sum + note.velocity, 0) / notes.length}
          low={1}
          high={127}
          rest={84}
          step={4}
          format={(v) => String(Math.round(v))}
          disabled={!mayEdit}
          help="How hard the notes are struck: chooses the layer and level of short notes. Costs nothing."
          onChange={(value) => setVelocity(notes, value)}
          onGesture={(phase) => (phase === 'begin' ? beginGesture('Velocity') : endGesture())}
        />
      )}
      <Button look="loss" className="mt-1" disabled={!mayEdit} onClick={removeSelected}>
        Delete
      </Button>
    </>
  );
}

function Positions({
  track,
  instrument,
  mayEdit,
}: {
  track: Item<'track'>;
  instrument: Instrument;
  mayEdit: boolean;
}) {
  const mixes = useList('positionMix').filter((mix) => mix.trackId === track.id);
  return (
    <>
      <GroupTitle>Positions</GroupTitle>
      {instrument.positions.map((position, i) => {
        const mix = mixes.find((candidate) => candidate.positionId === position.id);
        if (!mix) return null;
        const ids = new Set(
          instrument.articulations.flatMap((articulation) => [...samplesOf(articulation, [position.id])]),
        );
        return (
          <PositionRuler
            key={mix.id}
            track={track}
            index={i}
            name={position.name}
            mix={mix}
            bytes={memoryBytes(instrument, ids)}
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
    if (meter.current) meter.current.style.width = `${Math.min(100, shown.current * 100)}%`;
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
        format={DB}
        disabled={!mayEdit}
        help={`Level of the ${name.toLowerCase()} microphones; holds ${(bytes / 1e6).toFixed(0)} MB of memory.`}
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
        <span>{(bytes / 1e6).toFixed(0)} MB</span>
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

/** What the plan does with this part: the leads it uses, and what will not sound as written. */
function Planned({ track }: { track: Item<'track'> }) {
  const plan = usePerformance((state) => state.plans[track.id]);
  const records = useDocuments((state) => state.records);
  if (!plan || plan.notes.length === 0) return null;
  const leads = new Map<string, number[]>();
  for (const sound of soundsOf(plan)) {
    if (sound.gesture === 'hold') continue;
    const name =
      sound.gesture === 'move'
        ? 'recorded moves'
        : plan.context.instrument.articulations[sound.articulation].name;
    leads.set(name, [...(leads.get(name) ?? []), sound.beatSeconds - sound.startSeconds]);
  }
  const milliseconds = (list: number[]) => {
    const [low, high] = [Math.min(...list), Math.max(...list)].map((seconds) => Math.round(seconds * 1000));
    return low === high ? `${low} ms` : `${low} to ${high} ms`;
  };
  const findings = findingsOf(plan).slice(0, 12);
  const metre = metreOf(records);
  const barOf = (noteId: string) =>
    metre.toBarBeat(plan.notes.find((note) => note.id === noteId)?.startTick ?? 0).bar;
  return (
    <>
      <GroupTitle>Planned leads</GroupTitle>
      <table className="w-full">
        <tbody>
          {[...leads].map(([name, list]) => (
            <tr key={name} className="border-b border-rule-soft">
              <th className="py-1 text-left font-normal">{name}</th>
              <td className="text-right">{milliseconds(list)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {findings.length > 0 && (
        <>
          <GroupTitle>Findings</GroupTitle>
          {findings.map((finding) => (
            <Notice key={finding.noteId + finding.sentence} tone="straw">
              <button
                type="button"
                className="text-left"
                onClick={() => useEditor.setState({ selection: new Set([finding.noteId]) })}
              >
                Bar {barOf(finding.noteId)}: {finding.sentence}
              </button>
            </Notice>
          ))}
        </>
      )}
    </>
  );
}

function HallPane({ mayEdit }: { mayEdit: boolean }) {
  const template = useItem(
    'template',
    useDocuments((state) => state.templateId),
  );
  if (!template) return null;
  const change = (fields: Record<string, unknown>, merge: string) =>
    edit('Shared hall', [{ kind: 'template', id: template.id, op: 'update', fields }], merge);
  return (
    <>
      <GroupTitle>Shared hall, all tracks</GroupTitle>
      <Ruler
        label="Early"
        value={template.hallEarlyDb}
        low={-60}
        high={12}
        rest={0}
        step={1}
        unit="dB"
        format={DB}
        disabled={!mayEdit}
        help="First reflections of the shared hall: they tell the distance."
        onChange={(hallEarlyDb) => change({ hallEarlyDb }, 'early')}
      />
      <Ruler
        label="Tail"
        value={template.hallTailDb}
        low={-60}
        high={12}
        rest={0}
        step={1}
        unit="dB"
        format={DB}
        disabled={!mayEdit}
        help="The decaying tail of the shared hall: it tells the size."
        onChange={(hallTailDb) => change({ hallTailDb }, 'tail')}
      />
      <Choice
        label="Middle C is"
        className="mt-1"
        disabled={!mayEdit}
        value={String(template.middleC)}
        onChange={(event) => change({ middleC: Number(event.target.value) }, 'middle')}
        options={[
          { value: '4', text: 'C4' },
          { value: '3', text: 'C3' },
        ]}
      />
    </>
  );
}
