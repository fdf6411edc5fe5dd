import { toast } from 'sonner';
import { request } from '../state/api-client.ts';
import { edit, type Item } from '../state/documents.ts';
import { loadOverview, useSession } from '../state/session.ts';
import { askName, confirmLoss } from '../ui/ask.tsx';
import type { MenuItem } from '../ui/menu.tsx';

/** Makes a template or a cue, empty or as a copy. @returns its id @throws RequestFailure */
export async function makeDocument(made: {
  kind: 'template' | 'cue';
  name: string;
  templateId?: string;
  copyOf?: string;
}): Promise<string> {
  const { id } = await request<{ id: string }>('POST', '/documents', made);
  await loadOverview();
  return id;
}

const told = (error: Error) => {
  toast.error(error.message);
  return undefined;
};

/** Asks for the name of a new cue and makes it. @returns its id unless that was not wanted or failed */
export async function newCue(templateId: string | undefined): Promise<string | undefined> {
  const name = await askName('New cue', 'An empty cue over the tracks of the open template.', 'Make the cue');
  if (!name || templateId === undefined) return undefined;
  return makeDocument({ kind: 'cue', name, templateId }).catch(told);
}

/** Asks for the name of a new template and makes it. */
export async function newTemplate(): Promise<string | undefined> {
  const name = await askName(
    'New template',
    'An empty template: tracks come one by one.',
    'Make the template',
  );
  return name ? makeDocument({ kind: 'template', name }).catch(told) : undefined;
}

/** Copies a document under a name that is asked for. */
export async function duplicate(
  kind: 'template' | 'cue',
  document: { id: string; name: string },
): Promise<string | undefined> {
  const name = await askName(
    `Duplicate the ${kind}`,
    `A copy of “${document.name}” with everything in it; its history begins anew.`,
    'Duplicate',
    `${document.name} copy`.slice(0, 120),
  );
  return name ? makeDocument({ kind, name, copyOf: document.id }).catch(told) : undefined;
}

/** Deletes a document without asking: one that was made a moment ago, for example. @throws RequestFailure */
export async function dropDocument(kind: 'template' | 'cue', id: string): Promise<void> {
  await request('DELETE', `/documents/${kind}/${id}`);
  await loadOverview();
}

/** Deletes a document after asking. @returns whether it is gone */
export async function removeDocument(
  kind: 'template' | 'cue',
  document: { id: string; name: string },
): Promise<boolean> {
  const sure = await confirmLoss(
    `Delete the ${kind} “${document.name}”?`,
    kind === 'cue'
      ? 'Its notes, marks, curves and history go for everybody. This cannot be undone.'
      : 'Its tracks, mixes, keymaps and history go for everybody. This cannot be undone.',
    'Delete',
  );
  if (!sure) return false;
  try {
    await dropDocument(kind, document.id);
    return true;
  } catch (error) {
    told(error as Error);
    return false;
  }
}

/** Asks for another name of the open template or cue. */
export async function rename(
  kind: 'template' | 'cue',
  document: { id: string; name: string },
): Promise<void> {
  const name = await askName(
    `Rename the ${kind}`,
    'Everybody in the studio sees the new name.',
    'Rename',
    document.name,
  );
  if (name) edit(`Rename the ${kind}`, [{ kind, id: document.id, op: 'update', fields: { name } }]);
}

/** What can be done with the open cue, for its menu. @param go shows another cue, or (undefined) any */
export function cueActions(
  cue: Item<'cue'>,
  mayEdit: boolean,
  go: (id: string | undefined) => void,
): readonly (readonly MenuItem[])[] {
  const disabled = !mayEdit;
  const next = () => useSession.getState().overview?.cues.find(({ id }) => id !== cue.id)?.id;
  return [
    [
      { text: 'Rename …', disabled, onSelect: () => void rename('cue', cue) },
      {
        text: 'Duplicate …',
        disabled,
        onSelect: () => void duplicate('cue', cue).then((id) => id !== undefined && go(id)),
      },
    ],
    [
      {
        text: 'Delete …',
        loss: true,
        disabled,
        onSelect: () => void removeDocument('cue', cue).then((gone) => gone && go(next())),
      },
    ],
  ];
}
