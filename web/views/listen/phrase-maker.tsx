import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { ARTICULATION_GROUPS, type ArticulationGroup } from '#core/catalogue/index.ts';
import { cutPhrase, phraseText, playedPhrase, type WrittenPhrase } from '#core/listen/index.ts';
import type { PlayedMessage } from '#core/music/index.ts';
import { overhearMidi } from '../../sound/midi.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { metreOf, orderedTracks, partOf, tempoOf } from '../../state/cue.ts';
import { useDocuments } from '../../state/documents.ts';
import { addOwnPhrase } from '../../state/listen.ts';
import { useMayEdit } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle } from '../../ui/heading.tsx';
import { Ruler } from '../../ui/ruler.tsx';
import { useListen } from './listen-state.ts';

const MOST_TEXT = 60_000;

/** Makes a phrase of one's own: a part of the open cue, or played in. */
export function PhraseMaker() {
  const mayEdit = useMayEdit();
  const [name, setName] = useState('');
  const [suits, setSuits] = useState<ArticulationGroup>('long');
  const keep = (phrase: WrittenPhrase, bpm: number, fallback: string) => {
    const written = phraseText(phrase);
    if (written.length > MOST_TEXT) {
      toast.error('This phrase is too long to be kept. Take fewer bars, or play fewer controllers.');
      return;
    }
    const id = addOwnPhrase({ name: name.trim() || fallback, suits, bpm, written });
    useListen.setState({ surface: 'line-up', phrase: id });
  };
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <h2 className="font-serif text-lg font-semibold">A phrase of your own</h2>
      <p className="mb-3 text-ink-2">
        It stands below the house phrases in every line-up, is moved by octaves into each range, and follows
        the tempo ruler in proportion.
      </p>
      <div className="mb-3 flex items-center gap-4">
        <label className="flex items-center gap-2">
          Name
          <input
            className="h-7 w-56 rounded-md border border-rule bg-raised px-1.5"
            maxLength={120}
            value={name}
            placeholder="named by its place"
            onChange={(event) => setName(event.target.value)}
            onKeyDown={(event) => event.stopPropagation()}
          />
        </label>
        <Choice
          label="Played with"
          value={suits}
          onChange={(event) => setSuits(event.target.value as ArticulationGroup)}
          options={ARTICULATION_GROUPS.map((group) => ({ value: group, text: `${group} techniques` }))}
        />
      </div>
      <div className="grid grid-cols-2 gap-8">
        <FromCue disabled={!mayEdit} onKeep={keep} />
        <PlayedIn disabled={!mayEdit} onKeep={keep} />
      </div>
      {!mayEdit && <p className="mt-3 text-ink-3">Viewers may listen, but not keep phrases.</p>}
    </div>
  );
}

type Keep = (phrase: WrittenPhrase, bpm: number, fallback: string) => void;

function FromCue({ disabled, onKeep }: { disabled: boolean; onKeep: Keep }) {
  const records = useDocuments((state) => state.records);
  const current = usePerformance((state) => state.trackId);
  const tracks = orderedTracks(records);
  const [trackId, setTrackId] = useState(current ?? tracks[0]?.id ?? '');
  const [from, setFrom] = useState(1);
  const [to, setTo] = useState(4);
  const metre = metreOf(records);
  const { part } = partOf(records, trackId);
  const end = part.notes.reduce((last, note) => Math.max(last, note.endTick), 0);
  const bars = Math.max(2, metre.toBarBeat(Math.max(0, end - 1)).bar);
  const fromTick = metre.barStart(from);
  const phrase = cutPhrase(part, fromTick, metre.barStart(Math.max(from, to) + 1));
  const track = tracks.find((one) => one.id === trackId);
  return (
    <section aria-label="From the cue">
      <GroupTitle>From the open cue</GroupTitle>
      {tracks.length === 0 ? (
        <p className="text-ink-2">The open cue has no tracks.</p>
      ) : (
        <>
          <Choice
            label="Track"
            value={trackId}
            onChange={(event) => setTrackId(event.target.value)}
            options={tracks.map(({ id, name }) => ({ value: id, text: name }))}
          />
          {(
            [
              ['First bar', from, setFrom],
              ['Last bar', to, setTo],
            ] as const
          ).map(([label, value, set]) => (
            <Ruler
              key={label}
              label={label}
              value={value}
              low={1}
              high={bars}
              rest={label === 'First bar' ? 1 : Math.min(4, bars)}
              step={1}
              format={(bar) => String(Math.round(bar))}
              help={`${label} of the cue that is taken into the phrase.`}
              onChange={(bar) => set(Math.round(bar))}
            />
          ))}
          <p className="my-2 text-ink-2">
            {phrase.part.notes.length} {phrase.part.notes.length === 1 ? 'note' : 'notes'},{' '}
            {phrase.part.marks.length} {phrase.part.marks.length === 1 ? 'mark' : 'marks'}
          </p>
          <Button
            look="main"
            disabled={disabled || phrase.part.notes.length === 0}
            onClick={() =>
              onKeep(
                phrase,
                tempoOf(records).bpmAt(fromTick),
                `${track?.name ?? 'Cue'}, bars ${from} to ${Math.max(from, to)}`,
              )
            }
          >
            Keep these bars
          </Button>
        </>
      )}
    </section>
  );
}

function PlayedIn({ disabled, onKeep }: { disabled: boolean; onKeep: Keep }) {
  const [recording, setRecording] = useState(false);
  const [count, setCount] = useState(0);
  const [taken, setTaken] = useState<WrittenPhrase>();
  const messages = useRef<PlayedMessage[]>([]);
  const bpm = useListen((state) => state.bpm);
  useEffect(() => {
    if (!recording) return;
    return overhearMidi(([status, data1, data2], atMs) => {
      messages.current.push({ seconds: atMs / 1000, status, data1, data2 });
      if ((status & 0xf0) === 0x90 && data2 > 0) setCount((before) => before + 1);
    });
  }, [recording]);
  const begin = () => {
    messages.current = [];
    setCount(0);
    setTaken(undefined);
    setRecording(true);
  };
  const end = () => {
    setRecording(false);
    setTaken(playedPhrase(messages.current, bpm, performance.now() / 1000));
  };
  return (
    <section aria-label="Played in">
      <GroupTitle>Played in</GroupTitle>
      <p className="mb-2 text-ink-2">
        Play it with the strip below, the computer’s keys or a keyboard; controllers are taken along. It
        begins with the first note.
      </p>
      <div className="flex items-center gap-2">
        {recording ? (
          <Button className="text-warm" onClick={end}>
            End recording
          </Button>
        ) : (
          <Button look="loss" disabled={disabled} onClick={begin}>
            Record
          </Button>
        )}
        <span role="status" className="text-ink-2">
          {recording
            ? `${count} ${count === 1 ? 'note' : 'notes'} so far`
            : taken
              ? `${taken.part.notes.length} ${taken.part.notes.length === 1 ? 'note' : 'notes'} played`
              : count === 0
                ? ''
                : 'Nothing was played.'}
        </span>
      </div>
      {taken && (
        <Button
          look="main"
          className="mt-2"
          disabled={disabled}
          onClick={() => onKeep(taken, bpm, 'Played in')}
        >
          Keep what was played
        </Button>
      )}
    </section>
  );
}
