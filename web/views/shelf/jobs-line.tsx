import { X } from 'lucide-react';
import type { JobInfo } from '#api/index.ts';
import { cancelJob, useLibraries } from '../../state/libraries.ts';
import { useMayEdit } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';

const CANCELLABLE = new Set<JobInfo['kind']>(['import', 'scan', 'export', 'measure', 'reference']);
const MOST = 4;

/** Long work on the server that is going on, and imports that came to nothing. */
export function JobsLine() {
  const jobs = useLibraries((state) => state.jobs);
  const shown = jobs
    .filter(
      (job) =>
        job.state === 'running' ||
        job.state === 'waiting' ||
        (job.kind === 'import' && (job.state === 'failed' || job.state === 'cancelled')),
    )
    .slice(-MOST);
  return shown.map((job) => <JobRow key={job.id} job={job} />);
}

function JobRow({ job }: { job: JobInfo }) {
  const mayEdit = useMayEdit();
  const ended = job.state === 'failed' || job.state === 'cancelled';
  return (
    <div role="status" className="flex items-center gap-3 border-b border-rule-soft bg-ground px-4 py-1.5">
      <span className="w-64 shrink-0 truncate font-semibold">{job.title}</span>
      {ended ? (
        <>
          <span className={`min-w-0 flex-1 ${job.state === 'failed' ? 'text-warm' : 'text-ink-2'}`}>
            {job.message}
          </span>
          <Button
            look="icon"
            disabled={!mayEdit}
            aria-label={`Dismiss the note on ${job.title}`}
            title="Dismiss this note, for everybody in the studio"
            onClick={() => void cancelJob(job.id)}
          >
            <X size={13} aria-hidden />
          </Button>
        </>
      ) : (
        <>
          <progress
            className="h-2 w-40 accent-(--cool)"
            value={job.progress}
            max={1}
            aria-label={job.title}
          />
          <span className="w-10 text-right text-ink-2">{Math.round(job.progress * 100)} %</span>
          <span className="min-w-0 flex-1 truncate text-ink-2">{job.message}</span>
          {CANCELLABLE.has(job.kind) && (
            <Button look="loss" className="py-0" disabled={!mayEdit} onClick={() => void cancelJob(job.id)}>
              Cancel
            </Button>
          )}
        </>
      )}
    </div>
  );
}
