import { create } from 'zustand';
import { isStruck, type PlayedMessage } from '#core/music/index.ts';
import { tempoOf } from '../state/cue.ts';
import { useDocuments } from '../state/documents.ts';
import { writePhraseAt } from '../state/takes.ts';
import { usePerformance } from './performance-state.ts';

/** After so long a silence something else begins. */
const PAUSE_SECONDS = 4;
/** More than this is no phrase. */
const MOST_MESSAGES = 20_000;

interface Phrase {
  trackId: string;
  /** Whether its times are those of the cue, since it was played to it. */
  inCue: boolean;
  messages: PlayedMessage[];
}
let phrase: Phrase | undefined;

/** How many notes were played last without being recorded, and on which track. */
export const useLastPhrase = create<{ trackId: string | undefined; notes: number }>(() => ({
  trackId: undefined,
  notes: 0,
}));

/** Remembers what is played while nothing is recorded. @param inCue whether its time is that of the cue */
export function hearPhrase(trackId: string, message: PlayedMessage, inCue: boolean): void {
  const isNote = isStruck(message);
  const last = phrase?.messages.at(-1);
  const isAnother =
    !phrase ||
    !last ||
    phrase.trackId !== trackId ||
    phrase.inCue !== inCue ||
    message.seconds < last.seconds ||
    phrase.messages.length > MOST_MESSAGES ||
    (isNote && message.seconds - last.seconds > PAUSE_SECONDS);
  if (isAnother) phrase = { trackId, inCue, messages: [] };
  phrase?.messages.push(message);
  if (isAnother || isNote)
    useLastPhrase.setState(({ notes }) => ({
      trackId,
      notes: (isAnother ? 0 : notes) + (isNote ? 1 : 0),
    }));
}

/** Writes what was played last into its track: where it was played to the cue, else from the playhead on. @returns notes written */
export function keepLastPhrase(): number {
  const kept = phrase;
  if (!kept) return 0;
  const { trackId, inCue, messages } = kept;
  const first = messages.find(isStruck);
  if (!first) return 0;
  const { records } = useDocuments.getState();
  const rest = tempoOf(records).toSeconds(usePerformance.getState().restTick);
  const later = inCue ? 0 : rest - first.seconds;
  const moved = messages.map((message) => ({ ...message, seconds: message.seconds + later }));
  const end = moved[moved.length - 1].seconds;
  phrase = undefined;
  useLastPhrase.setState({ trackId: undefined, notes: 0 });
  return writePhraseAt(trackId, moved, end);
}
