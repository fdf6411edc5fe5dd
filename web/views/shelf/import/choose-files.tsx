import { useEffect, useRef, useState, type DragEvent, type ReactNode } from 'react';
import type { JobInfo } from '#api/index.ts';
import { request } from '../../../state/api-client.ts';
import { cancelJob, jobDone, lookAtJobs, useLibraries } from '../../../state/libraries.ts';
import { Button } from '../../../ui/button.tsx';
import { Notice } from '../../../ui/heading.tsx';
import { megabytes } from '../../../ui/megabytes.ts';
import { filesOf, readDropped, type Picked } from './picked-files.ts';

/** The first step: files are chosen or dropped, sent, and looked through. */
export function ChooseFiles({
  onFound,
  onClose,
}: {
  onFound: (importId: string) => void;
  onClose: () => void;
}) {
  const [over, setOver] = useState(false);
  const [trouble, setTrouble] = useState<string>();
  const [jobId, setJobId] = useState<string>();
  const [sending, setSending] = useState(0);
  const job = useLibraries((state) => state.jobs.find((one) => one.id === jobId));

  // Whoever leaves stops what is being sent, or looked through.
  const givenUp = useRef(new AbortController());
  const underWay = useRef<string>(undefined);
  useEffect(() => {
    const own = new AbortController();
    givenUp.current = own;
    return () => {
      own.abort();
      if (underWay.current !== undefined) void cancelJob(underWay.current).catch(() => undefined);
    };
  }, []);

  const send = async (files: readonly Picked[]) => {
    if (files.length === 0) return;
    setTrouble(undefined);
    setSending(files.reduce((sum, { file }) => sum + file.size, 0));
    try {
      const form = new FormData();
      for (const { path, file } of files) form.append('files', file, path);
      const started = await request<JobInfo>('POST', '/imports', form, givenUp.current.signal);
      underWay.current = started.id;
      setJobId(started.id);
      lookAtJobs();
      const found = await jobDone(started.id);
      underWay.current = undefined;
      onFound(found);
    } catch (error) {
      underWay.current = undefined;
      setTrouble((error as Error).message);
    }
    setSending(0);
    setJobId(undefined);
  };
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void readDropped(event.dataTransfer).then(send);
  };
  const busy = sending > 0;
  return (
    <>
      <div
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={drop}
        aria-busy={busy}
        className={`border border-dashed p-6 text-center ${over ? 'border-cool bg-cool-tint' : 'border-ink-3'}`}
      >
        {busy ? (
          <div role="status">
            <p>{jobId ? (job?.message ?? 'Looking through the files') : `Sending ${megabytes(sending)}`} …</p>
            <progress
              className="mt-2 h-2 w-64 accent-(--cool)"
              max={1}
              value={jobId ? job?.progress : undefined}
              aria-label="Looking through the files"
            />
          </div>
        ) : (
          <>
            <p>Drop files, a folder or a zip here, or</p>
            <div className="mt-2 flex flex-wrap justify-center gap-2">
              <FileButton
                accept=".zip,.sf2,.sf3,.wav,.flac"
                onFiles={(list) => void send(filesOf(list))}
                multiple
              >
                Choose files …
              </FileButton>
              <FileButton folder onFiles={(list) => void send(filesOf(list))}>
                Choose a folder …
              </FileButton>
            </div>
          </>
        )}
      </div>
      <dl className="mt-3 grid grid-cols-[150px_minmax(0,1fr)] gap-y-0.5 text-xs text-ink-2">
        <dt>SFZ</dt>
        <dd>a folder or zip with the .sfz and its WAV or FLAC files</dd>
        <dt>SoundFont 2</dt>
        <dd>one .sf2 file; each preset becomes an instrument</dd>
        <dt>Recordings by name</dt>
        <dd>a folder or zip of WAV or FLAC files whose names tell the note</dd>
        <dt>One recording</dt>
        <dd>a single WAV or FLAC: its pitch and a loop are found, and it follows the keys</dd>
      </dl>
      <div role="alert">{trouble && <Notice tone="warm">{trouble}</Notice>}</div>
      <div className="mt-4 flex justify-end">
        <Button onClick={onClose}>Not now</Button>
      </div>
    </>
  );
}

function FileButton({
  accept,
  folder,
  multiple,
  onFiles,
  children,
}: {
  accept?: string;
  folder?: boolean;
  multiple?: boolean;
  onFiles: (list: FileList | null) => void;
  children: ReactNode;
}) {
  return (
    <label className="inline-flex min-h-6 cursor-pointer items-center rounded-md border border-rule bg-raised px-2.5 py-1 focus-within:outline-2 focus-within:outline-cool hover:border-ink-3">
      {children}
      <input
        type="file"
        className="sr-only"
        accept={accept}
        multiple={multiple}
        ref={(element) => {
          if (folder) element?.setAttribute('webkitdirectory', '');
        }}
        onChange={(event) => onFiles(event.target.files)}
      />
    </label>
  );
}
