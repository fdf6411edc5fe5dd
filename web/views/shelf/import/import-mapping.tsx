import { useId, useMemo, useState, type InputHTMLAttributes } from 'react';
import { useWatch } from 'react-hook-form';
import { TakeInShape, type ImportProposal } from '#api/index.ts';
import { FAMILIES, ROOM_SOUNDS, type Family, type InstrumentKind } from '#core/catalogue/index.ts';
import type { Meaning } from '#core/intake/index.ts';
import { Button } from '../../../ui/button.tsx';
import { Choice } from '../../../ui/field.tsx';
import { useShapeForm } from '../../../ui/form.tsx';
import { GroupTitle, Notice } from '../../../ui/heading.tsx';
import { OwnRecording, startingRecording } from './own-recording.tsx';
import { PatternPreview } from './pattern-preview.tsx';
import { HearSample } from './hear-sample.tsx';
import { JoinsTable } from './joins-table.tsx';
import { decided, readingOf, type InstrumentSaid, type JoinSaid, type Said } from './reading.ts';
import { WordsTable } from './words-table.tsx';

/** What is sent when everything is decided. */
export type Decision = TakeInShape;

const KINDS = [
  { value: 'solo', text: 'solo player' },
  { value: 'section', text: 'section' },
  { value: 'ensemble', text: 'across the keys' },
];
const FIELD = 'w-44 rounded-md border border-rule bg-raised px-2 py-0.5';
/** More instruments than this are taken as guessed: nobody reads such a table. */
const MOST_LISTED = 24;

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
  const [library, maker, pattern, middleC, recording] = useWatch({
    control: form.control,
    name: ['library', 'maker', 'pattern', 'middleC', 'recording'],
  });
  const { byName, named, words, instruments, joins, usable } = useMemo(
    () => readingOf(proposal, { library, maker, pattern, middleC }, said),
    [proposal, library, maker, pattern, middleC, said],
  );
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
  const sayInstrument = (name: string, meaning: InstrumentSaid) =>
    setSaid(({ instruments: all, ...rest }) => ({
      ...rest,
      instruments: { ...all, [name]: { ...all[name], ...meaning } },
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
            onPattern={(text) => form.setValue('pattern', text)}
            onMiddleC={(value) => form.setValue('middleC', value)}
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
      {instruments.length <= MOST_LISTED ? (
        <>
          <GroupTitle>{instruments.length === 1 ? 'The instrument' : 'The instruments'}</GroupTitle>
          <ul>
            {instruments.map(({ name, family, kind, players, reason, example }) => (
              <li key={name} className="flex items-center gap-4 border-b border-rule-soft py-1">
                <span className="flex w-48 items-center gap-1">
                  {example !== null && <HearSample importId={proposal.id} sample={example} name={name} />}
                  <span className="truncate font-semibold">{name}</span>
                </span>
                <Choice
                  label={`Family of ${name}`}
                  hideLabel
                  value={family}
                  onChange={(event) => sayInstrument(name, { family: event.target.value as Family })}
                  options={FAMILIES.map((value) => ({ value, text: value }))}
                />
                <Choice
                  label={`Kind of ${name}`}
                  hideLabel
                  value={kind}
                  onChange={(event) => sayInstrument(name, { kind: event.target.value as InstrumentKind })}
                  options={KINDS}
                />
                <label className="flex items-center gap-1.5">
                  <input
                    aria-label={`Players of ${name}`}
                    type="number"
                    min={1}
                    max={200}
                    value={players}
                    onChange={(event) =>
                      sayInstrument(name, {
                        players: Math.min(200, Math.max(1, Math.round(Number(event.target.value)) || 1)),
                      })
                    }
                    className="w-16 rounded-md border border-rule bg-raised px-2 py-0.5"
                  />
                  players
                </label>
                <span className="min-w-0 flex-1 truncate text-xs text-ink-3">{reason}</span>
              </li>
            ))}
          </ul>
        </>
      ) : (
        <p className="mt-2 text-ink-2">
          {instruments.length} instruments; their families are told from their names and programs.
        </p>
      )}
      <div role="alert">
        {trouble && <Notice tone="warm">{trouble}</Notice>}
        {inTables && <Notice tone="warm">In the tables something cannot be so: {inTables}.</Notice>}
      </div>
      <div className="sticky -bottom-6 mt-3 flex justify-end gap-2 border-t border-rule bg-sheet py-3">
        <Button onClick={onClose}>Not now</Button>
        <Button
          look="main"
          disabled={!usable || sending}
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
