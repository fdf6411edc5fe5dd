import { useState } from 'react';
import { toast } from 'sonner';
import { request } from '../../state/api-client.ts';
import { useDocuments } from '../../state/documents.ts';
import { useSession } from '../../state/session.ts';
import { openCue } from '../../app/shell.tsx';
import { Button } from '../../ui/button.tsx';
import { Dialog } from '../../ui/dialog.tsx';

/** Makes an empty cue over the open template. @returns its id */
export async function makeCue(name: string): Promise<string> {
  const { templateId } = useDocuments.getState();
  const made = await request<{ id: string }>('POST', '/cues', { name, templateId });
  await useSession.getState().loadOverview();
  await openCue(made.id);
  return made.id;
}

/** Asks for the name of a new cue. */
export function NewCueDialog({ onClose }: { onClose: () => void }) {
  const [name, setName] = useState('');
  const [busy, setBusy] = useState(false);
  const make = () => {
    setBusy(true);
    makeCue(name.trim())
      .then(onClose)
      .catch((error: Error) => {
        toast.error(error.message);
        setBusy(false);
      });
  };
  return (
    <Dialog title="New cue" about="An empty cue over the tracks of the open template." onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          make();
        }}
      >
        <label className="flex items-center gap-3">
          Name
          <input
            className="flex-1 rounded-md border border-rule bg-raised px-2 py-1"
            value={name}
            maxLength={120}
            onChange={(event) => setName(event.target.value)}
            autoFocus
          />
        </label>
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={onClose}>Not now</Button>
          <Button type="submit" look="main" disabled={name.trim() === '' || busy}>
            Make the cue
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
