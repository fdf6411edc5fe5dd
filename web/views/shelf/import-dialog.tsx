import { useState, type DragEvent } from 'react';
import { FAMILIES } from '#core/catalogue/index.ts';
import type { JobInfo } from '#api/index.ts';
import { request } from '../../state/api-client.ts';
import { lookAtJobs } from '../../state/libraries.ts';
import { Button } from '../../ui/button.tsx';
import { Dialog } from '../../ui/dialog.tsx';
import { Choice } from '../../ui/field.tsx';
import { Notice } from '../../ui/heading.tsx';

interface Picked {
  path: string;
  file: File;
}

/** Takes in an SFZ instrument: a zip, a folder, or both dropped here. */
export function ImportDialog({ onClose }: { onClose: () => void }) {
  const [files, setFiles] = useState<readonly Picked[]>([]);
  const [name, setName] = useState('');
  const [family, setFamily] = useState('other');
  const [kind, setKind] = useState('solo');
  const [players, setPlayers] = useState('1');
  const [trouble, setTrouble] = useState<string>();
  const [sending, setSending] = useState(false);
  const [over, setOver] = useState(false);

  const pick = (picked: readonly Picked[]) => {
    setFiles(picked);
    const first = picked[0]?.path.split('/')[0].replace(/\.(zip|sfz)$/i, '');
    if (first && name === '') setName(first);
    const useful = picked.some(({ path }) => /\.(sfz|zip)$/i.test(path));
    setTrouble(
      picked.length > 0 && !useful
        ? 'None of these files is an .sfz or a .zip. Choose the folder that holds the .sfz and its WAV files.'
        : undefined,
    );
  };
  const fromInput = (list: FileList | null) =>
    pick([...(list ?? [])].map((file) => ({ path: file.webkitRelativePath || file.name, file })));
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void readDropped(event.dataTransfer).then(pick);
  };
  const send = async () => {
    setSending(true);
    setTrouble(undefined);
    try {
      const form = new FormData();
      for (const [field, value] of Object.entries({ library: name, family, kind, players }))
        form.append(field, value);
      for (const { path, file } of files) form.append('files', file, path);
      await request<JobInfo>('POST', '/libraries/import', form);
      lookAtJobs();
      onClose();
    } catch (error) {
      setTrouble((error as Error).message);
      setSending(false);
    }
  };
  const bytes = files.reduce((sum, { file }) => sum + file.size, 0);
  return (
    <Dialog
      title="Bring in sounds"
      about="An SFZ instrument with its WAV recordings, as a zip or a folder. The files themselves stay as they are; what Farlo cannot use is listed afterwards."
      onClose={onClose}
    >
      <div
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={drop}
        className={`border border-dashed p-5 text-center ${over ? 'border-cool bg-cool-tint' : 'border-ink-3'}`}
      >
        <p>
          {files.length === 0
            ? 'Drop a folder or a zip here, or'
            : `${files.length} ${files.length === 1 ? 'file' : 'files'}, ${(bytes / 1e6).toFixed(1)} MB, or`}
        </p>
        <div className="mt-2 flex justify-center gap-2">
          <label className="inline-flex min-h-6 cursor-pointer items-center rounded-md border border-rule bg-raised px-2.5 py-1 focus-within:outline-2 focus-within:outline-cool hover:border-ink-3">
            Choose a zip …
            <input
              type="file"
              accept=".zip"
              className="sr-only"
              onChange={(event) => fromInput(event.target.files)}
            />
          </label>
          <label className="inline-flex min-h-6 cursor-pointer items-center rounded-md border border-rule bg-raised px-2.5 py-1 focus-within:outline-2 focus-within:outline-cool hover:border-ink-3">
            Choose a folder …
            <input
              type="file"
              className="sr-only"
              ref={(element) => element?.setAttribute('webkitdirectory', '')}
              onChange={(event) => fromInput(event.target.files)}
            />
          </label>
        </div>
      </div>
      <div className="mt-4 grid grid-cols-2 gap-x-8 gap-y-2">
        <label className="flex items-center justify-between gap-2">
          Library
          <input
            className="w-44 rounded-md border border-rule bg-raised px-2 py-0.5"
            value={name}
            maxLength={120}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <Choice
          label="Family"
          value={family}
          onChange={(event) => setFamily(event.target.value)}
          options={FAMILIES.map((value) => ({ value, text: value }))}
        />
        <Choice
          label="Kind"
          value={kind}
          onChange={(event) => setKind(event.target.value)}
          options={[
            { value: 'solo', text: 'solo player' },
            { value: 'section', text: 'section' },
            { value: 'ensemble', text: 'across the keys' },
          ]}
        />
        <label className="flex items-center justify-between gap-2">
          Players
          <input
            type="number"
            min={1}
            max={200}
            className="w-20 rounded-md border border-rule bg-raised px-2 py-0.5"
            value={players}
            onChange={(event) => setPlayers(event.target.value)}
          />
        </label>
      </div>
      <div role="alert">{trouble && <Notice tone="warm">{trouble}</Notice>}</div>
      <div className="mt-5 flex justify-end gap-2">
        <Button onClick={onClose}>Not now</Button>
        <Button
          look="main"
          disabled={files.length === 0 || name.trim() === '' || sending}
          onClick={() => void send()}
        >
          {sending ? 'Sending …' : 'Take in'}
        </Button>
      </div>
    </Dialog>
  );
}

/** Files of a drop, folders walked through. */
async function readDropped(transfer: DataTransfer): Promise<Picked[]> {
  const entries = [...transfer.items]
    .map((item) => item.webkitGetAsEntry())
    .filter((entry) => entry !== null);
  const picked: Picked[] = [];
  const visit = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isFile) {
      const file = await new Promise<File>((resolve, reject) =>
        (entry as FileSystemFileEntry).file(resolve, reject),
      );
      picked.push({ path: entry.fullPath.replace(/^\//, ''), file });
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    // A reader gives a hundred entries at a time.
    for (let batch = await readBatch(reader); batch.length > 0; batch = await readBatch(reader))
      for (const child of batch) await visit(child);
  };
  for (const entry of entries) await visit(entry);
  return picked;
}

function readBatch(reader: FileSystemDirectoryReader): Promise<FileSystemEntry[]> {
  return new Promise((resolve, reject) => reader.readEntries(resolve, reject));
}
