import { useEffect, useMemo, useState } from 'react';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import { scoreWithin } from '#core/deliver/index.ts';
import { writeMusicXml, writtenNotes } from '#core/formats/index.ts';
import { playheadTick } from '../../../sound/playhead.ts';
import { usePerformance } from '../../../sound/performance-state.ts';
import { metreOf, orderedTracks, partOf } from '../../../state/cue.ts';
import { itemOf, useDocuments, type Item } from '../../../state/documents.ts';
import { vocabularyOf } from '../../../state/keymaps.ts';
import { SCORE_PITCHES, scoreOf, type ScorePitch } from '../../../state/score.ts';
import type { Records } from '../../../state/tables.ts';
import { Button } from '../../../ui/button.tsx';
import { Choice } from '../../../ui/field.tsx';
import { useSize } from '../../../ui/use-size.ts';
import { useTheme } from '../../../app/theme-choice.ts';
import { selectTrack } from '../../../sound/hands.ts';
import { useEditor } from '../editor/editor-state.ts';
import { themeInks } from '../editor/paint.ts';

type Shown = 'track' | 'family' | 'all';
const SHOWN: readonly { value: Shown; text: string }[] = [
  { value: 'track', text: 'this track' },
  { value: 'family', text: 'its family' },
  { value: 'all', text: 'all with notes' },
];
/** Bars of a page: so many that what was written is quick to draw again, however many parts there are. */
const [MOST_BARS, LEAST_BARS, BARS_OF_ALL] = [16, 4, 160];
/** As large as is well read beside the grid. */
const ZOOM = 0.7;
/** What is written is engraved again when nothing has changed for so long. */
const SETTLED_MS = 250;
const FOLLOW_MS = 300;

/** The parts of some tracks as they are written, some bars at a time. */
export function ScorePane({ track }: { track: Item<'track'> }) {
  const [shown, setShown] = useState<Shown>('track');
  const [pitch, setPitch] = useState<ScorePitch>('sounding');
  const rest = usePerformance((state) => state.restTick);
  const isPlaying = usePerformance((state) => state.playing);
  const records = useSettled(useDocuments((state) => state.records));
  const cueId = useDocuments((state) => state.cueId);
  const metre = metreOf(records);
  const tracks = useMemo(() => tracksOf(records, track, shown), [records, track, shown]);
  const bars = Math.max(LEAST_BARS, Math.min(MOST_BARS, Math.floor(BARS_OF_ALL / tracks.length)));
  const firstOf = (one: number) => Math.floor((one - 1) / bars) * bars + 1;
  // Pages are turned by hand, or by playing, until the playhead is put somewhere else.
  const [turned, setTurned] = useState({ rest, bar: metre.toBarBeat(rest).bar });
  const bar = firstOf(turned.rest === rest ? turned.bar : metre.toBarBeat(rest).bar);
  const setBar = (next: number) => setTurned({ rest, bar: next });
  useEffect(() => {
    if (!isPlaying) return;
    const follow = () => {
      const next = metre.toBarBeat(playheadTick()).bar;
      setTurned((now) => (now.rest === rest && now.bar === next ? now : { rest, bar: next }));
    };
    const timer = setInterval(follow, FOLLOW_MS);
    return () => clearInterval(timer);
  }, [isPlaying, metre, rest]);
  const last = metre.toBarBeat(Math.max(0, (itemOf(records, 'cue', cueId)?.endTick ?? 0) - 1)).bar;
  const end = Math.min(bar + bars - 1, Math.max(bar, last));
  const score = useMemo(() => {
    const whole = scoreOf(records, cueId, tracks, pitch);
    return scoreWithin(whole, { fromTick: metre.barStart(bar), toTick: metre.barStart(end + 1) });
  }, [records, cueId, tracks, pitch, bar, end, metre]);
  return (
    <section aria-label="Score" className="flex h-full min-h-0 flex-col border-b border-rule">
      <div className="flex shrink-0 flex-wrap items-center gap-2 border-b border-rule bg-ground px-3 py-1">
        <h2 className="font-serif text-[15px] font-semibold">Score</h2>
        <div className="flex-1" />
        <Choice
          label="Shows"
          value={shown}
          options={SHOWN}
          onChange={(event) => setShown(event.target.value as Shown)}
        />
        <Choice
          label="Pitch"
          value={pitch}
          options={SCORE_PITCHES}
          onChange={(event) => setPitch(event.target.value as ScorePitch)}
        />
        <Button look="icon" disabled={bar === 1} aria-label="Bars before" onClick={() => setBar(bar - bars)}>
          <ChevronLeft size={14} aria-hidden />
        </Button>
        <span className="text-ink-3 tabular-nums">
          bars {bar}–{end}
        </span>
        <Button
          look="icon"
          disabled={bar + bars > last}
          aria-label="Bars behind"
          onClick={() => setBar(bar + bars)}
        >
          <ChevronRight size={14} aria-hidden />
        </Button>
      </div>
      <Page key={pitch} score={score} records={records} />
    </section>
  );
}

/** Tracks that are written below each other, in the order of the template. */
function tracksOf(records: Records, track: Item<'track'>, shown: Shown): Item<'track'>[] {
  const hasNotes = ({ id }: Item<'track'>) => partOf(records, id).part.notes.length > 0;
  return orderedTracks(records).filter(
    (one) =>
      one.id === track.id ||
      (shown === 'family' && one.family === track.family && hasNotes(one)) ||
      (shown === 'all' && hasNotes(one)),
  );
}

/** A value once it has been the same for a moment. */
function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), SETTLED_MS);
    return () => clearTimeout(timer);
  }, [value]);
  return settled;
}

/** Drawn notation; a press on a note chooses it in the grid, with Shift beside those that are. */
function Page({ score, records }: { score: ReturnType<typeof scoreWithin>; records: Records }) {
  const [element, { width }] = useSize<HTMLDivElement>();
  const [shapes, setShapes] = useState<ReadonlyMap<string, readonly Element[]>>(new Map());
  const [state, setState] = useState<'drawing' | 'drawn' | string>('drawing');
  const theme = useTheme((one) => one.theme);
  const selection = useEditor((editor) => editor.selection);
  const drawing = useMemo(() => {
    const text = writeMusicXml(score, vocabularyOf(records));
    const ids = writtenNotes(score);
    return { text, ids, name: [text, ...ids.values()].join(' ') };
  }, [score, records]);
  // What reads the same is not drawn again.
  const [present, setPresent] = useState(drawing);
  if (present.name !== drawing.name) setPresent(drawing);

  useEffect(() => {
    const own = element.current;
    if (!own || width === 0) return;
    let isGone = false;
    const draw = async () => {
      const { Engraver } = await import('./engrave.ts');
      if (isGone) return;
      own.replaceChildren();
      const engraver = new Engraver(own, themeInks().ink);
      const { shapes: found } = await engraver.draw(present.text, present.ids, ZOOM);
      if (isGone) return;
      setShapes(found);
      setState('drawn');
    };
    draw().catch((error: unknown) => !isGone && setState((error as Error).message));
    return () => {
      isGone = true;
    };
  }, [element, present, width, theme]);

  useEffect(() => {
    for (const [id, list] of shapes)
      for (const shape of list) shape.classList.toggle('score-chosen', selection.has(id));
  }, [shapes, selection]);

  const press = (event: React.PointerEvent) => {
    const target = event.target as Element;
    for (const [id, list] of shapes)
      if (list.some((shape) => shape.contains(target))) {
        choose(id, event.shiftKey);
        return;
      }
  };
  return (
    <div className="score-page relative min-h-0 flex-1 overflow-auto" onPointerDown={press}>
      <div role="alert">
        {state !== 'drawing' && state !== 'drawn' && (
          <p className="p-3 text-warm">These bars cannot be drawn: {state}</p>
        )}
      </div>
      {state === 'drawing' && <p className="absolute p-3 text-ink-3">Drawing …</p>}
      <div ref={element} className="min-h-full" role="img" aria-label={describe(score)} />
    </div>
  );
}

/** Chooses a note, and goes to it where the grid shows another place or the note is another track's. */
function choose(id: string, isMore: boolean): void {
  const { records } = useDocuments.getState();
  const note = itemOf(records, 'note', id);
  const part = itemOf(records, 'part', note?.partId);
  if (!note || !part) return;
  const { trackId } = usePerformance.getState();
  if (part.trackId !== trackId) selectTrack(part.trackId);
  const { selection } = useEditor.getState();
  useEditor.setState({
    selection: new Set(isMore && part.trackId === trackId ? [...selection, id] : [id]),
    markId: undefined,
    wanted: id,
  });
}

function describe({ parts, firstBar = 1 }: ReturnType<typeof scoreWithin>): string {
  const notes = parts.reduce((sum, { part }) => sum + part.notes.length, 0);
  return `Score from bar ${firstBar}: ${parts.map(({ name }) => name).join(', ')}; ${notes} notes`;
}
