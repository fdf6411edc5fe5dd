import { useState } from 'react';
import { toast } from 'sonner';
import type { InstrumentSummary, JobInfo } from '#api/index.ts';
import { request } from '../../state/api-client.ts';
import { jobDone, lookAtJobs } from '../../state/libraries.ts';
import { Button } from '../../ui/button.tsx';
import { megabytes } from '../../ui/megabytes.ts';

/** Writes the instrument as SFZ with WAV files and hands the zip to the browser. */
export function ExportButton({ instrument }: { instrument: InstrumentSummary }) {
  const [busy, setBusy] = useState(false);
  const write = async () => {
    setBusy(true);
    try {
      const job = await request<JobInfo>('POST', `/instruments/${instrument.id}/export`);
      lookAtJobs();
      const file = await jobDone(job.id);
      const link = document.createElement('a');
      link.href = `/api/exports/${file}`;
      link.download = '';
      link.click();
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Button
      disabled={busy}
      title={`SFZ with ${megabytes(instrument.bytes)} of WAV files in a zip; Farlo and others read it back`}
      onClick={() => void write()}
    >
      {busy ? 'Writing …' : 'Take along as SFZ'}
    </Button>
  );
}
