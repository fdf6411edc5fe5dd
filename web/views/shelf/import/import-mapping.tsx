import { useMemo, useState } from 'react';
import type { ImportProposal, OwnRecordingShape, TakeInShape } from '#api/index.ts';
import {
  FAMILIES,
  ROOM_SOUNDS,
  type Family,
  type InstrumentKind,
  type RoomSound,
} from '#core/catalogue/index.ts';
import type { SampleFacts } from '#core/formats/index.ts';
import {
  foundInNames,
  guessFamily,
  guessMeanings,
  wordKey,
  type Meaning,
  type WordMeaning,
} from '#core/intake/index.ts';
import type { MiddleC } from '#core/music/index.ts';
import { Button } from '../../../ui/button.tsx';
import { Choice } from '../../../ui/field.tsx';
import { GroupTitle, Notice } from '../../../ui/heading.tsx';
import { OwnRecording, startingRecording } from './own-recording.tsx';
import { namesBy, PatternPreview } from './pattern-preview.tsx';
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
  const [library, setLibrary] = useState(proposal.name);
  const [maker, setMaker] = useState('own');
  const [room, setRoom] = useState('unknown');
  const [roomSound, setRoomSound] = useState<RoomSound>('medium');
  const [price, setPrice] = useState('');
  const [pattern, setPattern] = useState(proposal.pattern ?? '{instrument}_{articulation}_{note}');
  const [middleC, setMiddleC] = useState<MiddleC>(4);
  const [recording, setRecording] = useState<OwnRecordingShape | undefined>(
    proposal.recording ? startingRecording(proposal.recording) : undefined,
  );
  const [changed, setChanged] = useState<Readonly<Record<string, Partial<Meaning>>>>({});
  const [said, setSaid] = useState<
    Readonly<Record<string, { family?: Family; kind?: InstrumentKind; players?: number }>>
  >({});

  const paths = useMemo(() => proposal.files.map((file) => file.path), [proposal]);
  const byName = proposal.kind === 'recordings' && !proposal.recording;
  const named = useMemo(
    () => (byName ? namesBy(pattern, paths, middleC) : []),
    [byName, pattern, paths, middleC],
  );
  const guessed = useMemo(
    () => (byName ? wordsOfNames(proposal, named, library) : proposal.words),
    [byName, proposal, named, library],
  );
  const remembered = proposal.remembered[maker.trim().toLowerCase()] ?? {};
  const words = guessed.map((word): WordMeaning => {
    const key = wordKey(word);
    const before = remembered[key];
    return {
      ...word,
      ...(before ? { ...before, reason: `means this, as you set it for ${maker} before` } : {}),
      ...changed[key],
      ...(changed[key] ? { reason: 'means what you say' } : {}),
    };
  });
  const instruments = instrumentsOf(proposal, named, library).map((one) => ({ ...one, ...said[one.name] }));
  const ready =
    library.trim() !== '' &&
    maker.trim() !== '' &&
    (!byName || (typeof named !== 'string' && named.some((file) => !file.problem)));

  const take = () =>
    onTake({
      library: library.trim(),
      maker: maker.trim(),
      room: room.trim() || 'unknown',
      roomSound,
      price: price.trim() === '' ? null : Number(price),
      players: '',
      edition: '',
      text: '',
      words: words.map(({ kind, text, articulation, position, layer, take: number, instrument }) => ({
        kind,
        text,
        articulation,
        position,
        layer,
        take: number,
        instrument,
      })),
      instruments: instruments.map(({ name, family, kind, players }) => ({ name, family, kind, players })),
      ...(byName ? { pattern, middleC } : {}),
      ...(recording ? { recording } : {}),
    });
  return (
    <>
      <div className="grid grid-cols-3 gap-x-6 gap-y-1.5">
        <Field label="Library" value={library} onChange={setLibrary} />
        <Field label="Maker" value={maker} onChange={setMaker} />
        <Field
          label="Price, marks"
          value={price}
          onChange={(text) => /^\d*\.?\d*$/.test(text) && setPrice(text)}
        />
        <Field label="Room" value={room} onChange={setRoom} />
        <Choice
          label="Room sound"
          value={roomSound}
          onChange={(event) => setRoomSound(event.target.value as RoomSound)}
          options={ROOM_SOUNDS.map((value) => ({ value, text: value }))}
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
          <OwnRecording heard={proposal.recording} value={recording} onChange={setRecording} />
        </>
      )}
      {byName && (
        <>
          <GroupTitle>The names</GroupTitle>
          <PatternPreview
            pattern={pattern}
            middleC={middleC}
            named={named}
            onPattern={setPattern}
            onMiddleC={setMiddleC}
          />
        </>
      )}
      {words.length > 0 && (
        <>
          <GroupTitle>What the words mean</GroupTitle>
          <WordsTable
            words={words}
            instruments={proposal.kind === 'soundfont'}
            onChange={(key, meaning) => setChanged((all) => ({ ...all, [key]: { ...all[key], ...meaning } }))}
          />
        </>
      )}
      {instruments.length <= MOST_LISTED ? (
        <>
          <GroupTitle>{instruments.length === 1 ? 'The instrument' : 'The instruments'}</GroupTitle>
          <ul>
            {instruments.map(({ name, family, kind, players, reason }) => (
              <li key={name} className="flex items-center gap-4 border-b border-rule-soft py-1">
                <span className="w-44 truncate font-semibold">{name}</span>
                <Choice
                  label={`Family of ${name}`}
                  hideLabel
                  value={family}
                  onChange={(event) =>
                    setSaid((all) => ({
                      ...all,
                      [name]: { ...all[name], family: event.target.value as Family },
                    }))
                  }
                  options={FAMILIES.map((value) => ({ value, text: value }))}
                />
                <Choice
                  label={`Kind of ${name}`}
                  hideLabel
                  value={kind}
                  onChange={(event) =>
                    setSaid((all) => ({
                      ...all,
                      [name]: { ...all[name], kind: event.target.value as InstrumentKind },
                    }))
                  }
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
                      setSaid((all) => ({
                        ...all,
                        [name]: {
                          ...all[name],
                          players: Math.min(200, Math.max(1, Math.round(Number(event.target.value)) || 1)),
                        },
                      }))
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
      <div role="alert">{trouble && <Notice tone="warm">{trouble}</Notice>}</div>
      <div className="sticky -bottom-6 mt-3 flex justify-end gap-2 border-t border-rule bg-sheet py-3">
        <Button onClick={onClose}>Not now</Button>
        <Button look="main" disabled={!ready || sending} onClick={take}>
          {sending ? 'Sending …' : 'Take in'}
        </Button>
      </div>
    </>
  );
}

function Field({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (text: string) => void;
}) {
  return (
    <label className="flex items-center justify-between gap-2">
      {label}
      <input
        className={FIELD}
        value={value}
        maxLength={120}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  );
}

function factsOf(proposal: ImportProposal): Map<string, SampleFacts> {
  return new Map(
    proposal.files.map(({ path, frames, rate, looped }) => [
      path,
      { frames, rate, loops: looped ? [{ start: 0, end: frames }] : [] },
    ]),
  );
}

function wordsOfNames(
  proposal: ImportProposal,
  named: ReturnType<typeof namesBy>,
  library: string,
): WordMeaning[] {
  return typeof named === 'string' ? [] : guessMeanings(foundInNames(named, factsOf(proposal), library));
}

function instrumentsOf(
  proposal: ImportProposal,
  named: ReturnType<typeof namesBy>,
  library: string,
): { name: string; family: Family; kind: InstrumentKind; players: number; reason: string }[] {
  if (proposal.recording)
    return [{ name: proposal.recording.path, players: 1, ...guessFamily(proposal.recording.path) }];
  if (proposal.kind !== 'recordings') return proposal.instruments;
  if (typeof named === 'string') return [];
  const names = new Set(named.flatMap((file) => (file.problem ? [] : [file.parts.instrument ?? library])));
  return [...names].map((name) => ({ name, players: 1, ...guessFamily(name) }));
}
