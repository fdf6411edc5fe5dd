import { Play, Trash2 } from 'lucide-react';
import { toast } from 'sonner';
import { audition } from '../../sound/audition.ts';
import { edit, useList, type Item } from '../../state/documents.ts';
import { useMayEdit } from '../../state/session.ts';
import { readLevels } from '../../state/shelf.ts';
import { GroupTitle } from '../../ui/heading.tsx';
import { selectInstrument, useShelf } from './shelf-state.ts';

/** Sounds that were saved with their settings; a press plays one and shows its instrument. */
export function SavedSounds() {
  const sounds = useList('sound');
  const search = useShelf((state) => state.filter.search.toLowerCase());
  const mayEdit = useMayEdit();
  const shown = [...sounds]
    .filter(({ name, tags }) => `${name} ${tags}`.toLowerCase().includes(search))
    .sort((a, b) => a.name.localeCompare(b.name));
  if (sounds.length === 0) return null;
  const hear = (sound: Item<'sound'>) => {
    selectInstrument(sound.instrumentId);
    audition(sound.instrumentId, sound.articulation, {
      dynamics: sound.dynamics,
      vibrato: sound.vibrato,
      levels: readLevels(sound.levels),
    }).catch((failure: Error) => toast.error(failure.message));
  };
  return (
    <div className="mt-3">
      <GroupTitle>Saved sounds</GroupTitle>
      {shown.length === 0 && <p className="px-1.5 text-xs text-ink-3">None of them fits.</p>}
      <ul>
        {shown.map((sound) => (
          <li key={sound.id} className="flex items-center gap-1">
            <button
              type="button"
              onClick={() => hear(sound)}
              aria-label={`Hear ${sound.name}`}
              className="flex min-h-6 min-w-0 flex-1 items-center gap-1.5 rounded-sm px-1.5 text-left hover:bg-rule-soft"
            >
              <Play size={11} aria-hidden className="shrink-0 text-ink-3" />
              <span className="min-w-0 flex-1 truncate">
                {sound.name}
                {sound.tags !== '' && <span className="text-xs text-ink-3"> {sound.tags}</span>}
              </span>
            </button>
            <button
              type="button"
              disabled={!mayEdit}
              aria-label={`Forget ${sound.name}`}
              title="Forget this sound; undo brings it back"
              onClick={() => edit(`Forget ${sound.name}`, [{ kind: 'sound', id: sound.id, op: 'remove' }])}
              className="grid size-6 shrink-0 place-items-center text-ink-3 hover:text-warm disabled:opacity-50"
            >
              <Trash2 size={12} aria-hidden />
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
