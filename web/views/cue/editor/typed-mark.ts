import { toast } from 'sonner';
import { useDocuments } from '../../../state/documents.ts';
import { vocabularyOf } from '../../../state/keymaps.ts';
import { askName } from '../../../ui/ask.tsx';
import { markSpan, selectedNotes } from './part-edits.ts';

/** Asks for an articulation in words, the house's or those of labels, and gives it to the chosen notes. */
export async function typeMark(trackId: string): Promise<void> {
  const notes = selectedNotes();
  if (notes.length === 0) return;
  const text = await askName(
    notes.length === 1 ? 'Mark the chosen note' : `Mark ${notes.length} chosen notes`,
    'An articulation in the words of the house, or as it is written: staccato, pizz, con sord …',
    'Mark',
  );
  if (text === undefined) return;
  const articulation = articulationOf(text);
  if (articulation === undefined) {
    toast(`The house knows no articulation “${text}”. Keymaps lists its words.`);
    return;
  }
  markSpan(
    trackId,
    notes.reduce((least, { startTick }) => Math.min(least, startTick), Infinity),
    notes.reduce((most, { endTick }) => Math.max(most, endTick), 0),
    articulation,
  );
}

/** The articulation that a text names: by its name, as it is written, or by a word of labels. */
export function articulationOf(text: string): string | undefined {
  const vocabulary = vocabularyOf(useDocuments.getState().records);
  const wanted = text.trim().toLowerCase();
  const named = vocabulary.terms.find(
    ({ id, name, written }) =>
      id.toLowerCase() === wanted ||
      name.toLowerCase() === wanted ||
      (wanted !== '' && written.toLowerCase() === wanted),
  );
  return named?.id ?? vocabulary.guess(wanted)?.term.id;
}
