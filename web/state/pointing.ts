import { create } from 'zustand';
import { MOST_POINTED, type Here, type StreamEvent } from '#api/index.ts';
import { request } from './api-client.ts';
import { useSession } from './session.ts';
import { TAB } from './tab.ts';

/** What somebody else has chosen in a cue. */
export interface Pointed extends Here {
  documentId: string;
  trackId: string | null;
  noteIds: ReadonlySet<string>;
  /** By the page's clock, milliseconds. */
  at: number;
}

/** A note that somebody else has just changed. */
export interface Touched {
  name: string;
  at: number;
}

interface PointingState {
  /** By page. */
  pointed: ReadonlyMap<string, Pointed>;
  /** By note; only what was changed within the last seconds. */
  touched: ReadonlyMap<string, Touched>;
}

/** What others choose and change in cues, as they tell; nothing of it is kept. */
export const usePointing = create<PointingState>(() => ({ pointed: new Map(), touched: new Map() }));

/** A change of somebody else's is shown for so long. */
export const TOUCHED_MS = 4000;
/** Whoever is here says so again this often, and is forgotten when nothing was heard for three times as long. */
const AGAIN_MS = 20_000;
const FORGOTTEN_MS = 3 * AGAIN_MS;
/** A selection that is dragged is told no more often. */
const TELL_MS = 250;
/** Of a greater change only so many notes are shown. */
const MOST_TOUCHED = 500;

const isOther = ({ userId }: { userId: string }) => userId !== useSession.getState().info?.user?.id;

/** Takes in what the stream tells of others. */
export function hearPointing(event: StreamEvent, now = performance.now()): void {
  if (event.kind === 'pointing' && event.tab !== TAB && isOther(event)) {
    const { tab, userId, name, documentId, trackId, noteIds } = event;
    const pointed = new Map(usePointing.getState().pointed);
    for (const [other, { at }] of pointed) if (now - at > FORGOTTEN_MS) pointed.delete(other);
    pointed.set(tab, { userId, name, documentId, trackId, noteIds: new Set(noteIds), at: now });
    usePointing.setState({ pointed });
  } else if (event.kind === 'here' || event.kind === 'hello') {
    const here = new Set(event.here.map(({ userId }) => userId));
    const { pointed } = usePointing.getState();
    const left = [...pointed].filter(([, { userId }]) => here.has(userId));
    if (left.length < pointed.size) usePointing.setState({ pointed: new Map(left) });
    // Whoever came does not know yet.
    tellAgain();
  } else if (event.kind === 'patch' && event.patch && isOther(event.patch)) {
    const { author, changes } = event.patch;
    const notes = changes.filter(({ kind, op }) => kind === 'note' && op !== 'remove').slice(0, MOST_TOUCHED);
    if (notes.length > 0)
      touch(
        notes.map(({ id }) => id),
        author,
        now,
      );
  }
}

function touch(ids: readonly string[], name: string, now: number): void {
  const fresh = [...usePointing.getState().touched].filter(([, { at }]) => now - at < TOUCHED_MS);
  usePointing.setState({
    touched: new Map([...fresh, ...ids.map((id) => [id, { name, at: now }] as const)]),
  });
  setTimeout(() => {
    const { touched } = usePointing.getState();
    const left = [...touched].filter(([, { at }]) => at > now);
    if (left.length < touched.size) usePointing.setState({ touched: new Map(left) });
  }, TOUCHED_MS);
}

interface Own {
  cueId: string;
  trackId: string | undefined;
  noteIds: Iterable<string>;
}

let own: Own | undefined;
let waiting: ReturnType<typeof setTimeout> | undefined;
let again: ReturnType<typeof setInterval> | undefined;
/** Once more, and then no longer. */
let forget = false;

/** Says what is chosen here now, soon; undefined when no cue is looked at any more. */
export function tellPointing(next: Own | undefined): void {
  clearInterval(again);
  // Whoever leaves has nothing chosen there any more.
  own = next ?? (own && { cueId: own.cueId, trackId: undefined, noteIds: [] });
  tellAgain();
  forget = next === undefined;
  if (next) again = setInterval(tellAgain, AGAIN_MS);
}

function tellAgain(): void {
  if (!own || waiting !== undefined) return;
  waiting = setTimeout(() => {
    waiting = undefined;
    if (!own) return;
    const { cueId, trackId = null, noteIds } = own;
    const body = { tab: TAB, trackId, noteIds: [...noteIds].slice(0, MOST_POINTED) };
    // Nobody is the poorer for it when it is lost.
    request('POST', `/documents/cue/${cueId}/pointing`, body).catch(() => undefined);
    if (forget) own = undefined;
    forget = false;
  }, TELL_MS);
}

/** People who have chosen a track of a cue, each once. */
export function peopleAt({ pointed }: PointingState, cueId: string | undefined, trackId: string): string[] {
  const names = [...pointed.values()]
    .filter((one) => one.documentId === cueId && one.trackId === trackId)
    .map(({ name }) => name);
  return [...new Set(names)].sort();
}

/** Who has chosen each note of a cue, or has just changed it. */
export function notesOfOthers(
  { pointed, touched }: PointingState,
  cueId: string | undefined,
): ReadonlyMap<string, string> {
  const names = new Map<string, string>();
  for (const [id, { name }] of touched) names.set(id, name);
  for (const { documentId, noteIds, name } of pointed.values())
    if (documentId === cueId) for (const id of noteIds) names.set(id, name);
  return names;
}

/** “Wren Sable: 2 notes” of everybody who has notes of a track chosen. */
export function chosenByOthers(
  { pointed }: PointingState,
  cueId: string | undefined,
  trackId: string,
): string {
  return [...pointed.values()]
    .filter((one) => one.documentId === cueId && one.trackId === trackId && one.noteIds.size > 0)
    .map(({ name, noteIds }) => `${name}: ${noteIds.size === 1 ? 'a note' : `${noteIds.size} notes`}`)
    .join(', ');
}
