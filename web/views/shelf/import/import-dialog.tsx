import { useState } from 'react';
import { toast } from 'sonner';
import type { ImportProposal, JobInfo } from '#api/index.ts';
import { request } from '../../../state/api-client.ts';
import { lookAtJobs } from '../../../state/libraries.ts';
import { Dialog } from '../../../ui/dialog.tsx';
import { ChooseFiles } from './choose-files.tsx';
import { ImportMapping, type Decision } from './import-mapping.tsx';

/** Brings sounds in: files are chosen, what they are is looked at and corrected, then they are taken in. */
export function ImportDialog({ onClose }: { onClose: () => void }) {
  const [proposal, setProposal] = useState<ImportProposal>();
  const [trouble, setTrouble] = useState<string>();
  const [sending, setSending] = useState(false);
  const close = () => {
    // What was sent and not taken in need not wait on the server.
    if (proposal) void request('DELETE', `/imports/${proposal.id}`).catch(() => undefined);
    onClose();
  };
  const found = async (id: string) => {
    try {
      setProposal(await request<ImportProposal>('GET', `/imports/${id}`));
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  const take = async (decision: Decision) => {
    setSending(true);
    setTrouble(undefined);
    try {
      await request<JobInfo>('POST', `/imports/${proposal?.id}/take-in`, decision);
      lookAtJobs();
      onClose();
    } catch (error) {
      setTrouble((error as Error).message);
      setSending(false);
    }
  };
  return (
    <Dialog
      wide={proposal !== undefined}
      title="Bring in sounds"
      about={
        proposal
          ? 'This is what Farlo makes of the files. Correct what is wrong; what you correct is remembered for this maker.'
          : 'The files themselves stay as they are. What Farlo cannot use is listed afterwards.'
      }
      onClose={close}
    >
      {proposal ? (
        <ImportMapping
          proposal={proposal}
          sending={sending}
          trouble={trouble}
          onTake={(decision) => void take(decision)}
          onClose={close}
        />
      ) : (
        <ChooseFiles onFound={(id) => void found(id)} onClose={close} />
      )}
    </Dialog>
  );
}
