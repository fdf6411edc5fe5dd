import { useState } from 'react';
import type { InstrumentSummary } from '#api/index.ts';
import type { SoundSettings } from '../../sound/audition.ts';
import { edit } from '../../state/documents.ts';
import { useMayEdit } from '../../state/session.ts';
import { levelsText } from '../../state/shelf.ts';
import { Button } from '../../ui/button.tsx';

/** Saves the technique last heard with its settings, under a name and tags. */
export function SaveSound({
  instrument,
  articulation,
  settings,
}: {
  instrument: InstrumentSummary;
  articulation: string;
  settings: SoundSettings;
}) {
  const mayEdit = useMayEdit();
  const [open, setOpen] = useState(false);
  const [name, setName] = useState('');
  const [tags, setTags] = useState('');
  if (!open)
    return (
      <Button
        disabled={!mayEdit}
        title={`Keep ${articulation} with these settings under a name`}
        onClick={() => {
          setName(`${instrument.name}, ${articulation}`);
          setOpen(true);
        }}
      >
        Save this sound …
      </Button>
    );
  const save = () => {
    edit(`Save ${name}`, [
      {
        kind: 'sound',
        id: crypto.randomUUID(),
        op: 'add',
        fields: {
          name: name.trim(),
          tags: tags.trim(),
          instrumentId: instrument.id,
          articulation,
          dynamics: settings.dynamics,
          vibrato: settings.vibrato,
          levels: levelsText(settings.levels),
        },
      },
    ]);
    setOpen(false);
    setTags('');
  };
  return (
    <form
      className="w-full border-l-[3px] border-cool pl-2.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim() !== '') save();
      }}
    >
      <label className="flex items-center justify-between gap-2">
        Name
        <input
          autoFocus
          value={name}
          maxLength={120}
          onChange={(event) => setName(event.target.value)}
          className="w-52 rounded-md border border-rule bg-raised px-2 py-0.5"
        />
      </label>
      <label className="mt-1 flex items-center justify-between gap-2">
        Tags
        <input
          value={tags}
          maxLength={400}
          placeholder="soft, lighthouse"
          onChange={(event) => setTags(event.target.value)}
          className="w-52 rounded-md border border-rule bg-raised px-2 py-0.5 placeholder:text-ink-3"
        />
      </label>
      <div className="mt-1.5 flex justify-end gap-2">
        <Button onClick={() => setOpen(false)}>Not now</Button>
        <Button look="main" type="submit" disabled={name.trim() === ''}>
          Save
        </Button>
      </div>
    </form>
  );
}
