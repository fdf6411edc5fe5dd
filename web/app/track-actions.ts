import type { KeyboardEvent } from 'react';
import { selectTrack } from '../sound/hands.ts';
import { edit, itemOf, listOf, useDocuments, type Item } from '../state/documents.ts';
import { deleteTrack, duplicateTrack, moveTrack, renameTrack } from '../state/track-edits.ts';
import { askName } from '../ui/ask.tsx';
import type { MenuItem } from '../ui/menu.tsx';

async function askForName(id: string): Promise<void> {
  const track = itemOf(useDocuments.getState().records, 'track', id);
  if (!track) return;
  const name = await askName(
    'Rename the track',
    `“${track.name}” is called so in every cue of the template.`,
    'Rename',
    track.name,
  );
  if (name) renameTrack(id, name);
}

/** Deletes a track and takes up its neighbour. @returns the neighbour's id */
function deleteAndGoOn(id: string): string | undefined {
  const tracks = listOf(useDocuments.getState().records, 'track');
  const at = tracks.findIndex((track) => track.id === id);
  deleteTrack(id);
  return (tracks[at + 1] ?? tracks[at - 1])?.id;
}

/** What can be done with a track, for its menu. */
export function trackActions(track: Item<'track'>, mayEdit: boolean): readonly (readonly MenuItem[])[] {
  const disabled = !mayEdit;
  const then = (id: string | undefined) => id !== undefined && selectTrack(id);
  return [
    [
      { text: 'Rename …', keys: 'F2', disabled, onSelect: () => void askForName(track.id) },
      { text: 'Duplicate', keys: 'Ctrl D', disabled, onSelect: () => void then(duplicateTrack(track.id)) },
      { text: 'Move up', keys: 'Alt ↑', disabled, onSelect: () => moveTrack(track.id, -1) },
      { text: 'Move down', keys: 'Alt ↓', disabled, onSelect: () => moveTrack(track.id, 1) },
    ],
    [
      {
        text: track.muted ? 'Let it sound in the template' : 'Silence it in the template',
        disabled,
        onSelect: () =>
          edit(track.muted ? 'Let the track sound' : 'Silence the track', [
            { kind: 'track', id: track.id, op: 'update', fields: { muted: !track.muted } },
          ]),
      },
    ],
    [
      {
        text: 'Delete',
        keys: 'Delete',
        loss: true,
        disabled,
        onSelect: () => void then(deleteAndGoOn(track.id)),
      },
    ],
  ];
}

/** The same by keyboard. @param choose takes up another track @returns whether the key was one of them */
export function runTrackKey(
  event: KeyboardEvent,
  id: string,
  choose: (id: string | undefined) => void,
): boolean {
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key] as 1 | -1 | undefined;
  if (event.altKey && step !== undefined) {
    moveTrack(id, step);
    choose(id);
  } else if (event.key === 'F2') void askForName(id);
  else if ((event.ctrlKey || event.metaKey) && event.key === 'd') choose(duplicateTrack(id));
  else if (event.key === 'Delete') choose(deleteAndGoOn(id));
  else return false;
  return true;
}
