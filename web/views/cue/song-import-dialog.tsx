import { useEffect, useMemo, useState, type ReactNode } from 'react';
import { toast } from 'sonner';
import type { Instrument } from '#core/catalogue/index.ts';
import { counted } from '#core/units/index.ts';
import type { Song } from '#core/formats/index.ts';
import { request } from '../../state/api-client.ts';
import { edit, useDocuments, useList } from '../../state/documents.ts';
import { useLibraries } from '../../state/libraries.ts';
import { Button } from '../../ui/button.tsx';
import { Dialog } from '../../ui/dialog.tsx';
import { Notice } from '../../ui/heading.tsx';
import { dropDocument, makeDocument } from '../../app/document-actions.ts';
import { openCue } from '../../app/opening.ts';
import { readSongFile } from './read-song.ts';
import {
  aheadOfBeats,
  instrumentOfNew,
  isPerformed,
  LEAVE_OUT,
  newTrackEdits,
  newTrackWith,
  octavesOff,
  songEdits,
  suggestTargets,
} from './song-edits.ts';

/** Takes a Standard MIDI File or a MusicXML score into a new cue: which of its tracks goes to which track of the template. */
export function SongImportDialog({
  file,
  onClose,
  onDone,
}: {
  file: File;
  onClose: () => void;
  /** Told the cue that was made. */
  onDone: (cueId: string) => void;
}) {
  const [song, setSong] = useState<Song>();
  const [trouble, setTrouble] = useState<string>();
  const [targets, setTargets] = useState<readonly string[]>([]);
  const [useSwitches, setUseSwitches] = useState(true);
  const [takeLeadsBack, setTakeLeadsBack] = useState(false);
  const [toBeats, setToBeats] = useState(true);
  const [moveSwitches, setMoveSwitches] = useState(true);
  const [busy, setBusy] = useState(false);
  const tracks = useList('track');
  const libraries = useLibraries((state) => state.libraries);
  const instruments = (libraries ?? []).flatMap((library) =>
    library.instruments.map(({ id, name }) => ({ id, text: `${name} · ${library.name}` })),
  );

  useEffect(() => {
    const reading = readSongFile(file);
    void reading.answer.then((answer) => {
      if ('trouble' in answer) return setTrouble(answer.trouble);
      setSong(answer.song);
      setTakeLeadsBack(isPerformed(answer.song));
      setTargets(suggestTargets(answer.song));
    });
    return reading.end;
  }, [file]);

  // A score says its techniques in words and signs; none of its notes is a switch.
  const isScore = song?.tracks.some(({ marks }) => marks !== undefined) ?? false;
  const choices = { targets, useSwitches: useSwitches && !isScore, takeLeadsBack, toBeats, moveSwitches };
  const ahead = useMemo(
    () =>
      song && useSwitches && !isScore && !isPerformed(song)
        ? aheadOfBeats(song, { targets, moveSwitches })
        : [],
    [song, isScore, targets, useSwitches, moveSwitches],
  );

  const take = async () => {
    if (!song) return;
    setBusy(true);
    let made: string | undefined;
    try {
      const instruments = await asked(targets);
      const name =
        file.name.replace(/\.(mid|midi|smf|musicxml|xml|mxl)$/i, '').slice(0, 120) || 'From a file';
      const cueId = (made = await makeDocument({
        kind: 'cue',
        name,
        templateId: useDocuments.getState().templateId,
      }));
      await openCue(cueId);
      const fresh = newTrackEdits(song, targets, instruments);
      if (fresh.edits.length > 0) edit(`Tracks for ${file.name}`, fresh.edits);
      edit(`Bring in ${file.name}`, songEdits(song, { ...choices, targets: fresh.targets }, cueId));
      onDone(cueId);
    } catch (error) {
      // No empty cue is left behind.
      if (made !== undefined) await dropDocument('cue', made).catch(() => undefined);
      toast.error((error as Error).message);
      setBusy(false);
    }
  };
  const off = song && useSwitches && !isScore ? octavesOff(song, targets) : [];
  const made = targets.filter((target) => instrumentOfNew(target) !== undefined).length;
  const count = (index: number) => {
    const track = song?.tracks[index];
    if (!track) return '';
    const curves = new Set([...track.controls, ...(track.points ?? [])].map(({ controller }) => controller));
    const held = [
      counted(track.notes.length, 'note'),
      track.marks && track.marks.length > 0 ? counted(track.marks.length, 'mark') : '',
      curves.size > 0 ? counted(curves.size, 'curve') : '',
    ];
    return held.filter(Boolean).join(', ');
  };
  return (
    <Dialog
      title={`Bring in ${file.name}`}
      about={
        made === 0
          ? 'It becomes a new cue over the open template; nothing there is changed.'
          : `It becomes a new cue over the open template, which gets ${made === 1 ? 'a new track' : `${made} new tracks`} at its end.`
      }
      onClose={onClose}
    >
      <div role="alert">{trouble && <Notice tone="warm">{trouble} Nothing was taken in.</Notice>}</div>
      {song && (
        <>
          <div className="mb-2 flex flex-wrap items-center gap-2">
            <p className="mr-auto text-ink-2">
              {[
                counted(song.tempos.length, 'tempo'),
                counted(song.metres.length, 'metre'),
                ...(song.keys.length > 0 ? [counted(song.keys.length, 'key signature')] : []),
                counted(song.texts.length + song.tracks.reduce((sum, t) => sum + t.texts.length, 0), 'text'),
              ].join(', ')}
            </p>
            {made > 0 && (
              <Button className="py-0.5" onClick={() => setTargets(targets.map(leftOutIfNew))}>
                Make no new tracks
              </Button>
            )}
          </div>
          {song.told && <Told sentences={song.told} />}
          <table className="w-full">
            <thead>
              <tr className="text-left text-xs text-ink-3">
                <th className="font-normal">In the file</th>
                <th className="font-normal">Holds</th>
                <th className="font-normal">Goes to</th>
              </tr>
            </thead>
            <tbody>
              {song.tracks.map((track, i) => (
                <tr key={i} className="border-t border-rule-soft">
                  <td className="py-1 pr-3">{track.name}</td>
                  <td className="pr-3 whitespace-nowrap">{count(i)}</td>
                  <td>
                    <select
                      aria-label={`Where ${track.name} goes`}
                      className="w-full rounded-md border border-rule bg-raised px-1 py-0.5"
                      value={targets[i]}
                      onChange={(event) =>
                        setTargets(targets.map((t, k) => (k === i ? event.target.value : t)))
                      }
                    >
                      <option value={LEAVE_OUT}>leave out</option>
                      <optgroup label="A track of the template">
                        {tracks.map((candidate) => (
                          <option key={candidate.id} value={candidate.id}>
                            {candidate.name}
                          </option>
                        ))}
                      </optgroup>
                      <optgroup label="A new track with">
                        <option value={newTrackWith(undefined)}>a new track, no instrument yet</option>
                        {instruments.map(({ id, text }) => (
                          <option key={id} value={newTrackWith(id)}>
                            {`new: ${text}`}
                          </option>
                        ))}
                      </optgroup>
                    </select>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {!isScore && (
            <Tick checked={useSwitches} onChange={setUseSwitches}>
              What selects articulations in the track’s keymap becomes marks
            </Tick>
          )}
          {isPerformed(song) && (
            <Tick checked={takeLeadsBack} onChange={setTakeLeadsBack}>
              It was made to be performed: take the empty bar away and put notes back on their beats
            </Tick>
          )}
          {ahead.length > 0 && (
            <Tick checked={toBeats} onChange={setToBeats}>
              Put notes of {ahead.join(', ')} back on their beats: they lie ahead by what these techniques
              take to speak, and Farlo moves them ahead itself
            </Tick>
          )}
          {off.length > 0 && (
            <Notice tone="straw">
              Switches of {off.map(({ name }) => name).join(', ')} lie{' '}
              {Math.abs(off[0].shift) === 12 ? 'an octave' : 'two octaves'}{' '}
              {off[0].shift > 0 ? 'lower' : 'higher'} in the file than in the keymap: it seems to count from
              another middle C.
              <Tick checked={moveSwitches} onChange={setMoveSwitches}>
                Read them where the keymap has them
              </Tick>
            </Notice>
          )}
        </>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Not now</Button>
        <Button
          look="main"
          disabled={!song || busy || targets.every((target) => target === LEAVE_OUT)}
          onClick={() => void take()}
        >
          {busy ? 'Taking in …' : 'Take in'}
        </Button>
      </div>
    </Dialog>
  );
}

const leftOutIfNew = (target: string) => (instrumentOfNew(target) === undefined ? target : LEAVE_OUT);

/** Instruments that new tracks are asked with, by id. @throws RequestFailure */
async function asked(targets: readonly string[]): Promise<Map<string, Instrument>> {
  const ids = new Set(targets.map(instrumentOfNew).filter((id) => id !== undefined && id !== ''));
  const found = await Promise.all([...ids].map((id) => request<Instrument>('GET', `/instruments/${id}`)));
  return new Map(found.map((one) => [one.id, one]));
}

const SENTENCES = 6;

/** What of the file is not kept, or not as it was written. */
function Told({ sentences }: { sentences: readonly string[] }) {
  return (
    <Notice tone="straw">
      <ul>
        {sentences.slice(0, SENTENCES).map((sentence) => (
          <li key={sentence}>{sentence}</li>
        ))}
        {sentences.length > SENTENCES && <li>And {sentences.length - SENTENCES} more of the kind.</li>}
      </ul>
    </Notice>
  );
}

/** Something that can be left out, with what it does. */
function Tick({
  checked,
  onChange,
  children,
}: {
  checked: boolean;
  onChange: (checked: boolean) => void;
  children: ReactNode;
}) {
  return (
    <label className="mt-1.5 flex items-start gap-2">
      <input
        type="checkbox"
        className="mt-0.5 size-4 shrink-0 accent-(--cool)"
        checked={checked}
        onChange={(event) => onChange(event.target.checked)}
      />
      <span>{children}</span>
    </label>
  );
}
