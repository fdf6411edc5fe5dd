import { useEffect, useId, useMemo, useState, type InputHTMLAttributes } from 'react';
import { useWatch } from 'react-hook-form';
import { TakeInShape, type ImportProposal } from '#api/index.ts';
import { useLibraries } from '../../../state/libraries.ts';
import { ROOM_SOUNDS } from '#core/catalogue/index.ts';
import type { Meaning } from '#core/intake/index.ts';
import { Button } from '../../../ui/button.tsx';
import { Choice } from '../../../ui/field.tsx';
import { useShapeForm } from '../../../ui/form.tsx';
import { GroupTitle, Notice } from '../../../ui/heading.tsx';
import { OwnRecording, startingRecording } from './own-recording.tsx';
import { PatternPreview } from './pattern-preview.tsx';
import { InstrumentsTable } from './instruments-table.tsx';
import { JoinsTable } from './joins-table.tsx';
import { decided, readingOf, type InstrumentSaid, type JoinSaid, type Said } from './reading.ts';
import { WordsTable } from './words-table.tsx';

/** What is sent when everything is decided. */
export type Decision = TakeInShape;

const FIELD = 'w-44 rounded-md border border-rule bg-raised px-2 py-0.5';
/** The second step: what the files are taken to be, open to correction. */
export function ImportMapping({
  proposal,
  sending,
  trouble,
  onTake,
  onClose,
}: {
  proposal: ImportProposal;
  sending: boolean;
  trouble: string | undefined;
  onTake: (decision: Decision) => void;
  onClose: () => void;
}) {
  const [said, setSaid] = useState<Said>({ words: {}, instruments: {}, joins: {} });
  const form = useShapeForm<Decision>(
    TakeInShape,
    {
      library: proposal.name,
      replaces: false,
      maker: 'own',
      room: 'unknown',
      roomSound: 'medium',
      price: null,
      players: '',
      edition: '',
      text: '',
      words: [],
      instruments: [],
      pattern: proposal.pattern ?? '{instrument}_{articulation}_{note}',
      middleC: 4,
      recording: proposal.recording ? startingRecording(proposal.recording) : undefined,
    },
    (values) => ({ ...values, ...decided(readingOf(proposal, values, said)) }),
  );
  const [library, replaces, maker, pattern, middleC, recording] = useWatch({
    control: form.control,
    name: ['library', 'replaces', 'maker', 'pattern', 'middleC', 'recording'],
  });
  const taken = useLibraries(({ libraries }) =>
    libraries?.find(({ name }) => name.toLowerCase() === library.trim().toLowerCase()),
  );
  // How this maker names files is known from the last time, unless somebody has said something else by now.
  const [isPatternSaid, setPatternSaid] = useState(false);
  const known = proposal.names[maker.trim().toLowerCase()];
  useEffect(() => {
    if (!known || isPatternSaid) return;
    form.setValue('pattern', known.pattern);
    form.setValue('middleC', known.middleC);
  }, [known, isPatternSaid, form]);
  const { byName, named, words, instruments, joins, asked, usable } = useMemo(
    () => readingOf(proposal, { library, maker, pattern, middleC }, said),
    [proposal, library, maker, pattern, middleC, said],
  );
  // Said beside the button that waits for it: where it is answered may be out of sight.
  const open =
    taken && !replaces
      ? 'The name is taken: see above.'
      : asked > 0
        ? `Say which family ${asked === 1 ? 'one instrument is' : `${asked} instruments are`}.`
        : '';
  const { errors } = form.formState;
  const inTables = firstMessage([
    errors.words,
    errors.instruments,
    errors.joins,
    errors.pattern,
    errors.recording,
  ]);
  const sayWord = (key: string, meaning: Partial<Meaning>) =>
    setSaid(({ words: all, ...rest }) => ({
      ...rest,
      words: { ...all, [key]: { ...all[key], ...meaning } },
    }));
  const sayInstruments = (names: readonly string[], meaning: InstrumentSaid) =>
    setSaid(({ instruments: all, ...rest }) => ({
      ...rest,
      instruments: {
        ...all,
        ...Object.fromEntries(names.map((name) => [name, { ...all[name], ...meaning }])),
      },
    }));
  const sayJoin = (name: string, meaning: JoinSaid) =>
    setSaid(({ joins: all, ...rest }) => ({
      ...rest,
      joins: { ...all, [name]: { ...all[name], ...meaning } },
    }));
  return (
    <>
      <div className="grid grid-cols-3 gap-x-6 gap-y-1.5">
        <Field label="Library" error={errors.library} {...form.register('library', trimmed)} />
        <Field label="Maker" error={errors.maker} {...form.register('maker', trimmed)} />
        <Field
          label="Price, marks"
          inputMode="decimal"
          error={errors.price}
          {...form.register('price', { setValueAs: priceOf })}
        />
        <Field
          label="Room"
          error={errors.room}
          {...form.register('room', { setValueAs: (text: string) => text.trim() || 'unknown' })}
        />
        <Choice
          label="Room sound"
          options={ROOM_SOUNDS.map((value) => ({ value, text: value }))}
          {...form.register('roomSound')}
        />
      </div>
      {taken && (
        <label className="mt-1.5 flex items-start gap-2">
          <input type="checkbox" className="mt-1" {...form.register('replaces')} />
          <span>
            “{taken.name}” stands on the shelf already, by {taken.maker}. Replace it: tracks play on with
            instruments of the same name; those that are not in the new one go. Or give this library another
            name.
          </span>
        </label>
      )}
      {proposal.failed.map(({ name, sentence }) => (
        <Notice key={name} tone="warm">
          <strong>{name}</strong> cannot be taken in: {sentence}
        </Notice>
      ))}
      {recording && proposal.recording && (
        <>
          <GroupTitle>The recording</GroupTitle>
          <OwnRecording
            heard={proposal.recording}
            value={recording}
            onChange={(value) => form.setValue('recording', value)}
          />
        </>
      )}
      {byName && (
        <>
          <GroupTitle>The names</GroupTitle>
          <PatternPreview
            pattern={pattern ?? ''}
            middleC={middleC ?? 4}
            named={named}
            known={known && !isPatternSaid ? maker.trim() : undefined}
            onPattern={(text) => {
              setPatternSaid(true);
              form.setValue('pattern', text);
            }}
            onMiddleC={(value) => {
              setPatternSaid(true);
              form.setValue('middleC', value);
            }}
          />
        </>
      )}
      {joins.length > 0 && (
        <>
          <GroupTitle>Positions in separate files</GroupTitle>
          <JoinsTable joins={joins} onChange={sayJoin} />
        </>
      )}
      {words.length > 0 && (
        <>
          <GroupTitle>What the words mean</GroupTitle>
          <WordsTable
            importId={proposal.id}
            words={words}
            instruments={proposal.kind === 'soundfont'}
            onChange={sayWord}
          />
        </>
      )}
      <InstrumentsTable
        importId={proposal.id}
        instruments={instruments}
        asked={asked}
        said={said.instruments}
        onChange={sayInstruments}
      />
      <div role="alert">
        {trouble && <Notice tone="warm">{trouble}</Notice>}
        {inTables && <Notice tone="warm">In the tables something cannot be so: {inTables}.</Notice>}
      </div>
      <div className="sticky -bottom-6 mt-3 flex justify-end gap-2 border-t border-rule bg-sheet py-3">
        <span className="min-w-0 flex-1 self-center text-warm" role="status">
          {open}
        </span>
        <Button onClick={onClose}>Not now</Button>
        <Button
          look="main"
          disabled={!usable || sending || (taken !== undefined && !replaces)}
          onClick={() => void form.handleSubmit((decision) => onTake(decision))()}
        >
          {sending ? 'Sending …' : 'Take in'}
        </Button>
      </div>
    </>
  );
}

/** The first sentence in errors of any depth. */
function firstMessage(errors: unknown): string | undefined {
  if (typeof errors !== 'object' || errors === null) return undefined;
  const { message } = errors as { message?: unknown };
  if (typeof message === 'string') return message;
  for (const [name, inner] of Object.entries(errors))
    if (name !== 'ref') {
      const found = firstMessage(inner);
      if (found !== undefined) return found;
    }
  return undefined;
}

const trimmed = { setValueAs: (text: string) => text.trim() };
const priceOf = (text: string | null) => {
  const plain = (text ?? '').replace(',', '.').trim();
  return plain === '' ? null : Number(plain);
};

function Field({
  label,
  error,
  ...rest
}: InputHTMLAttributes<HTMLInputElement> & { label: string; error?: { message?: string } }) {
  const id = useId();
  return (
    <div>
      <label className="flex items-center justify-between gap-2">
        {label}
        <input
          className={`${FIELD} aria-[invalid=true]:border-warm`}
          aria-invalid={error !== undefined}
          aria-describedby={error && id}
          maxLength={120}
          {...rest}
        />
      </label>
      {error && (
        <p id={id} role="alert" className="text-right text-xs text-warm">
          {error.message}
        </p>
      )}
    </div>
  );
}
