import { useEffect, useRef, useState } from 'react';
import { FileUp, Play, Square, Trash2 } from 'lucide-react';
import { toast } from 'sonner';
import type { ReferenceInfo } from '#api/index.ts';
import { outlineOf, toneDifference, type PassageFigures, type ToneDifference } from '#core/listen/index.ts';
import { hear, stopListening, useListening } from '../../sound/listening.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { heldRendering, keepSound, rendering } from '../../sound/renderings.ts';
import { soundHost } from '../../sound/host.ts';
import { toneOf } from '../../sound/tone.ts';
import { useList } from '../../state/documents.ts';
import { useLibraries, cancelJob } from '../../state/libraries.ts';
import { giveTone } from '../../state/listen.ts';
import {
  choosePassage,
  chosenSound,
  removeReference,
  takeReference,
  useChosenPassage,
  useReferences,
} from '../../state/references.ts';
import { useMayEdit } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { contenderName, type Contender } from './contenders.ts';
import { useListen } from './listen-state.ts';
import { SmallChart } from './measured/chart.tsx';
import { PassageChoice } from './passage-choice.tsx';
import type { PhraseRow } from './rows.ts';

/** Holds a contender against a passage of a recording. */
export function ReferencePanel({
  contenders,
  rows,
}: {
  contenders: readonly Contender[];
  rows: readonly PhraseRow[];
}) {
  const { list, trouble, taking } = useReferences();
  const [chosen, setChosen] = useState<string>();
  const [refused, setRefused] = useState<string>();
  const mayEdit = useMayEdit();
  const reference = list?.find((one) => one.id === chosen) ?? list?.[0];
  const take = (file: File) => {
    setRefused(undefined);
    takeReference(file).then(setChosen, (error: Error) => setRefused(`${file.name}: ${error.message}`));
  };
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <div className="mb-2 flex items-center gap-2">
        <h2 className="font-serif text-lg font-semibold">Against a recording</h2>
        {list && list.length > 0 && reference && (
          <>
            <Choice
              label="Recording"
              hideLabel
              className="max-w-64"
              value={reference.id}
              onChange={(event) => setChosen(event.target.value)}
              options={list.map(({ id, name }) => ({ value: id, text: name }))}
            />
            <Button
              look="quiet"
              disabled={!mayEdit}
              aria-label={`Remove ${reference.name}`}
              title="Takes the recording off the server; the file it came from stays where it is"
              className="px-1.5"
              onClick={() => {
                stopListening();
                void removeReference(reference.id).catch((error: Error) => toast.error(error.message));
              }}
            >
              <Trash2 size={13} aria-hidden />
            </Button>
          </>
        )}
        <div className="flex-1" />
        <label
          className={`inline-flex min-h-6 items-center gap-1.5 rounded-md border border-rule bg-raised px-2.5 py-1 focus-within:outline-2 focus-within:outline-cool ${mayEdit && !taking ? 'cursor-pointer hover:border-ink-3' : 'opacity-50'}`}
        >
          <FileUp size={14} aria-hidden /> Take in a recording …
          <input
            type="file"
            accept=".wav,.wave,.flac"
            disabled={!mayEdit || taking !== undefined}
            className="sr-only"
            onChange={(event) => {
              const file = event.target.files?.[0];
              if (file) take(file);
              event.target.value = '';
            }}
          />
        </label>
      </div>
      {taking && <Taking job={taking} />}
      {refused && (
        <div role="alert">
          <Notice tone="warm">{refused}</Notice>
        </div>
      )}
      {trouble && <Notice tone="warm">{trouble}</Notice>}
      {list?.length === 0 && !taking && (
        <p className="text-ink-2">
          Take in a recording you admire, WAV or FLAC, an hour at most. Then choose a passage of it, and see
          how a contender stands against it: tone, width, decay, range of loudness.
        </p>
      )}
      {reference && <Against key={reference.id} reference={reference} contenders={contenders} rows={rows} />}
    </div>
  );
}

function Taking({ job }: { job: string }) {
  const info = useLibraries((state) => state.jobs.find((one) => one.id === job));
  return (
    <div role="status" className="mb-2 flex items-center gap-3">
      <span>{info?.title ?? 'Sending the recording'}</span>
      <progress className="h-2 w-40" max={1} value={info?.progress ?? 0} aria-label="Taking in" />
      <span className="text-ink-2">{info?.message}</span>
      <Button look="loss" className="py-0" onClick={() => void cancelJob(job)}>
        Cancel
      </Button>
    </div>
  );
}

interface Result {
  reference: PassageFigures;
  contender: PassageFigures;
  difference: ToneDifference;
  /** Of what they are figures. */
  of: string;
}

function Against({
  reference,
  contenders,
  rows,
}: {
  reference: ReferenceInfo;
  contenders: readonly Contender[];
  rows: readonly PhraseRow[];
}) {
  const { contender: contenderId, phrase, bpm } = useListen();
  const passage = useChosenPassage(reference);
  const [result, setResult] = useState<Result>();
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState<string>();
  const sounding = useListening((state) => state.sounding);
  const ticket = useRef(0);
  const column = Math.max(
    0,
    contenders.findIndex((one) => one.id === contenderId),
  );
  const contender = contenders[column];
  const row = rows.find((one) => one.id === phrase) ?? rows[0];
  const order = row?.cells[column];
  const passageName = `recording ${reference.id} ${passage.from}–${passage.to}`;
  const of = `${passageName} against ${order?.name ?? ''} ${bpm}`;
  useEffect(() => () => void stopListening(), []);

  const fetchPassage = () => chosenSound(reference);
  const compare = async () => {
    if (!order) return;
    const mine = ++ticket.current;
    setBusy(true);
    setTrouble(undefined);
    try {
      const [sound, rendered] = await Promise.all([fetchPassage(), rendering(order)]);
      const figures = await Promise.all([
        toneOf(sound.left, sound.right),
        toneOf(rendered.left, rendered.right),
      ]);
      if (mine !== ticket.current) return;
      keepSound(passageName, {
        ...sound,
        lufs: figures[0].lufs,
        truePeakDb: figures[0].crestDb + figures[0].lufs,
        outline: outlineOf(sound.left, sound.right, 64),
      });
      if (!Number.isFinite(figures[0].lufs)) {
        setResult(undefined);
        setTrouble('This passage is silent. Choose another one.');
        return;
      }
      setResult({
        reference: figures[0],
        contender: figures[1],
        difference: toneDifference(figures[0], figures[1]),
        of,
      });
    } catch (error) {
      if (mine === ticket.current) setTrouble((error as Error).message);
    } finally {
      if (mine === ticket.current) setBusy(false);
    }
  };
  const hearPassage = async () => {
    if (sounding === passageName) {
      stopListening();
      return;
    }
    await soundHost.wake();
    if (heldRendering(passageName) === undefined) await compare();
    if (heldRendering(passageName)) await hear([{ name: passageName, held: true }], 0, { matched: true });
  };
  if (!contender || !row) return null;
  return (
    <>
      <PassageChoice
        reference={reference}
        passage={passage}
        onChange={(next) => choosePassage(reference.id, next)}
      />
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <Choice
          label="against"
          value={contender.id}
          onChange={(event) => useListen.setState({ contender: event.target.value })}
          options={contenders.map((one) => ({
            value: one.id,
            text: `${one.letter} · ${contenderName(one)}`,
          }))}
        />
        <Choice
          label="playing"
          value={row.id}
          onChange={(event) => useListen.setState({ phrase: event.target.value })}
          options={rows.map(({ id, name }) => ({ value: id, text: name }))}
        />
        <Button look="main" disabled={busy || !order} onClick={() => void compare()}>
          {busy ? 'Measuring …' : 'Compare'}
        </Button>
        <Button
          disabled={busy || !order}
          onClick={() => void hearPassage().catch((error: Error) => setTrouble(error.message))}
        >
          {sounding === passageName ? <Square size={12} aria-hidden /> : <Play size={12} aria-hidden />}{' '}
          Passage
        </Button>
        <Button
          disabled={!order}
          onClick={() =>
            sounding === order?.name
              ? void stopListening()
              : order && void hear([order], 0, { matched: true })
          }
        >
          {sounding === order?.name ? <Square size={12} aria-hidden /> : <Play size={12} aria-hidden />}{' '}
          Contender
        </Button>
        {!order && <span className="text-ink-2">This contender cannot play that phrase.</span>}
      </div>
      {trouble && (
        <div role="alert">
          <Notice tone="warm">{trouble}</Notice>
        </div>
      )}
      {result && (
        <div className={result.of === of ? '' : 'opacity-50'}>
          {result.of !== of && (
            <p className="mt-2 text-straw">These figures are of what was chosen before. Compare again.</p>
          )}
          <Figures result={result} letter={contender.letter} />
          <Suggestion result={result} />
        </div>
      )}
    </>
  );
}

function Figures({ result, letter }: { result: Result; letter: string }) {
  const { reference, contender, difference } = result;
  const tick = (hertz: number) =>
    hertz >= 1000 ? `${Math.round(hertz / 100) / 10}k` : String(Math.round(hertz));
  // Both at the reference's loudness, so that only the tone differs.
  const offset = reference.lufs - contender.lufs;
  const line = (thirds: readonly number[], added: number) =>
    thirds.flatMap((level, i) =>
      level > Math.max(...thirds) - 70 ? [{ x: difference.hertz[i], y: level + added }] : [],
    );
  const rows: { name: string; one: string; other: string }[] = [
    {
      name: 'Loudness',
      one: `${text(reference.lufs, 1)} LUFS`,
      other: `${text(contender.lufs, 1)} LUFS, matched by ${text(offset, 1, true)} dB`,
    },
    {
      name: 'Range of loudness',
      one: `${text(reference.rangeLu, 1)} LU`,
      other: `${text(contender.rangeLu, 1)} LU`,
    },
    {
      name: 'Peaks over loudness',
      one: `${text(reference.crestDb, 1)} dB`,
      other: `${text(contender.crestDb, 1)} dB`,
    },
    {
      name: 'Width',
      one: reference.width ? `correlation ${text(reference.width.correlation, 2)}` : '—',
      other: contender.width ? `correlation ${text(contender.width.correlation, 2)}` : '—',
    },
    {
      name: 'Decay time',
      one: reference.decay ? `${reference.decay.seconds.toFixed(1)} s` : 'nothing dies away freely here',
      other: contender.decay ? `${contender.decay.seconds.toFixed(1)} s` : 'nothing dies away freely here',
    },
  ];
  return (
    <>
      <div className="mt-3 grid grid-cols-2 gap-6">
        <SmallChart
          title="Third octaves"
          x={`hertz · recording solid, ${letter} bold`}
          y="dB, level matched"
          kind="line"
          logarithmic
          tick={tick}
          empty="No tone could be measured."
          series={[
            { name: 'Recording', slot: 0, points: line(reference.thirds, 0) },
            { name: letter, slot: 1, points: line(contender.thirds, offset) },
          ]}
        />
        <SmallChart
          title="What the contender lacks"
          x="hertz · above 0: less than the recording"
          y="dB"
          kind="line"
          logarithmic
          tick={tick}
          empty="Nothing is heard in both."
          series={[
            {
              name: 'Difference',
              slot: 1,
              points: difference.differenceDb.map((y, i) => ({ x: difference.hertz[i], y })),
            },
          ]}
        />
      </div>
      <table className="mt-2 w-full table-fixed border-collapse">
        <thead>
          <tr className="border-b border-rule text-left text-ink-3">
            <th scope="col" className="w-44 py-0.5 font-normal">
              Figure
            </th>
            <th scope="col" className="py-0.5 font-normal">
              Recording
            </th>
            <th scope="col" className="py-0.5 font-normal">
              Contender {letter}
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((one) => (
            <tr key={one.name} className="border-b border-rule-soft">
              <th scope="row" className="py-0.5 text-left font-normal">
                {one.name}
              </th>
              <td className="py-0.5">{one.one}</td>
              <td className="py-0.5">{one.other}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function text(value: number, digits: number, plus = false): string {
  if (!Number.isFinite(value)) return '—';
  return `${plus && value >= 0 ? '+' : ''}${value.toFixed(digits).replace('-', '−')}`;
}

/** Few broad bands that bring the contender nearer, and the track they can be handed to. */
function Suggestion({ result }: { result: Result }) {
  const { bands } = result.difference;
  const tracks = useList('track');
  const current = usePerformance((state) => state.trackId);
  const [chosen, setChosen] = useState<string>();
  const mayEdit = useMayEdit();
  const track = tracks.find((one) => one.id === (chosen ?? current)) ?? tracks[0];
  return (
    <section aria-label="Tone">
      <GroupTitle>A tone that comes nearer</GroupTitle>
      {bands.length === 0 ? (
        <p className="text-ink-2">
          Broad bands would bring it no nearer: the tones already agree within half a decibel.
        </p>
      ) : (
        <>
          <ul className="flex flex-wrap gap-x-6">
            {bands.map((band) => (
              <li key={`${band.shape} ${band.hertz}`}>
                {band.shape} at {band.hertz >= 1000 ? `${band.hertz / 1000} kHz` : `${band.hertz} Hz`}:{' '}
                <b>{text(band.gainDb, 1, true)} dB</b>
              </li>
            ))}
          </ul>
          {track && (
            <div className="mt-1.5 flex items-center gap-2">
              <Choice
                label="Track"
                value={track.id}
                onChange={(event) => setChosen(event.target.value)}
                options={tracks.map(({ id, name }) => ({ value: id, text: name }))}
              />
              <Button
                disabled={!mayEdit}
                title="Sets these bands in place of the track’s tone; undo brings the old one back"
                onClick={() => {
                  giveTone(track.id, bands, 'Take over a suggested tone');
                  toast(`${track.name} has the suggested tone; it is in its side pane in the cue.`);
                }}
              >
                Hand it to {track.name}
              </Button>
            </div>
          )}
        </>
      )}
    </section>
  );
}
