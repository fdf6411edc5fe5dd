import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { describeError, FarloError } from '#core/errors/index.ts';
import { partFromSmf, readSmf, type SmfSong } from '#core/formats/index.ts';
import { naturalId } from '#api/index.ts';
import { edit, itemOf, useDocuments, useList } from '../../state/documents.ts';
import { keymapOfTrack } from '../../state/keymaps.ts';
import type { Edit } from '../../state/diff.ts';
import { Button } from '../../ui/button.tsx';
import { Dialog } from '../../ui/dialog.tsx';
import { Notice } from '../../ui/heading.tsx';
import { makeDocument } from '../../app/document-actions.ts';
import { openCue } from '../../app/opening.ts';

const LEAVE_OUT = '';
const LARGEST_FILE = 32 * 2 ** 20;
const BAR = 3840;

/** Takes a Standard MIDI File into a new cue: which of its tracks goes to which track of the template. */
export function MidiImportDialog({
  file,
  onClose,
  onDone,
}: {
  file: File;
  onClose: () => void;
  /** Told the cue that was made. */
  onDone: (cueId: string) => void;
}) {
  const [song, setSong] = useState<SmfSong>();
  const [trouble, setTrouble] = useState<string>();
  const [targets, setTargets] = useState<readonly string[]>([]);
  const [useSwitches, setUseSwitches] = useState(true);
  const [busy, setBusy] = useState(false);
  const tracks = useList('track');

  useEffect(() => {
    if (file.size > LARGEST_FILE) return setTrouble(`${file.name}: larger than 32 MB, which no score needs.`);
    file
      .arrayBuffer()
      .then((buffer) => {
        const read = readSmf(new Uint8Array(buffer), file.name);
        setSong(read);
        setTargets(suggestTargets(read, tracks));
      })
      .catch((error: unknown) =>
        setTrouble(error instanceof FarloError ? describeError(error) : String(error)),
      );
    // The suggestion is made once, for the tracks there are when the file is opened.
    // oxlint-disable-next-line react-hooks/exhaustive-deps
  }, [file]);

  const take = async () => {
    if (!song) return;
    setBusy(true);
    try {
      const name = file.name.replace(/\.(mid|midi|smf)$/i, '').slice(0, 120) || 'From MIDI';
      const cueId = await makeDocument({ kind: 'cue', name, templateId: useDocuments.getState().templateId });
      await openCue(cueId);
      edit(`Bring in ${file.name}`, songEdits(song, targets, useSwitches, cueId));
      onDone(cueId);
    } catch (error) {
      toast.error((error as Error).message);
      setBusy(false);
    }
  };
  const count = (index: number) => {
    const track = song?.tracks[index];
    const controllers = new Set(track?.controls.map((control) => control.controller));
    const notes = track?.notes.length ?? 0;
    return `${notes} ${notes === 1 ? 'note' : 'notes'}${controllers.size > 0 ? `, ${controllers.size} ${controllers.size === 1 ? 'controller' : 'controllers'}` : ''}`;
  };
  return (
    <Dialog
      title="Bring in MIDI"
      about={`${file.name} becomes a new cue over the open template; nothing there is changed.`}
      onClose={onClose}
    >
      <div role="alert">{trouble && <Notice tone="warm">{trouble} Nothing was taken in.</Notice>}</div>
      {song && (
        <>
          <p className="mb-2 text-ink-2">
            {song.tempos.length} {song.tempos.length === 1 ? 'tempo' : 'tempos'}, {song.metres.length}{' '}
            {song.metres.length === 1 ? 'metre' : 'metres'},{' '}
            {song.texts.length + song.tracks.reduce((sum, t) => sum + t.texts.length, 0)} texts
          </p>
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
                  <td className="py-1">{track.name}</td>
                  <td>{count(i)}</td>
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
                      {tracks.map((candidate) => (
                        <option key={candidate.id} value={candidate.id}>
                          {candidate.name}
                        </option>
                      ))}
                    </select>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <label className="mt-3 flex items-center gap-2">
            <input
              type="checkbox"
              className="size-4 accent-(--cool)"
              checked={useSwitches}
              onChange={(event) => setUseSwitches(event.target.checked)}
            />
            What selects articulations in the track’s keymap becomes marks
          </label>
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

/** By name where names agree, otherwise in order. */
function suggestTargets(song: SmfSong, tracks: readonly { id: string; name: string }[]): string[] {
  const used = new Set<string>();
  return song.tracks.map((track) => {
    if (track.notes.length === 0) return LEAVE_OUT;
    const same = tracks.find(
      (candidate) => !used.has(candidate.id) && candidate.name.toLowerCase() === track.name.toLowerCase(),
    );
    const chosen = same ?? tracks.find((candidate) => !used.has(candidate.id));
    if (chosen) used.add(chosen.id);
    return chosen?.id ?? LEAVE_OUT;
  });
}

/** Everything the song puts into a cue, as one edit. */
function songEdits(song: SmfSong, targets: readonly string[], useSwitches: boolean, cueId: string): Edit[] {
  const { records } = useDocuments.getState();
  const add = (kind: Edit['kind'], fields: Record<string, unknown>): Edit => ({
    kind,
    id: crypto.randomUUID(),
    op: 'add',
    fields,
  });
  const notes = song.tracks.filter((_, i) => targets[i] !== LEAVE_OUT).flatMap((track) => track.notes);
  const end = Math.ceil(notes.reduce((last, note) => Math.max(last, note.endTick), BAR) / BAR) * BAR;
  const texts = [...song.texts, ...song.tracks.flatMap((track) => track.texts)].filter(
    ({ text }) => text.trim() !== '',
  );
  const edits: Edit[] = [
    { kind: 'cue', id: cueId, op: 'update', fields: { endTick: end } },
    ...song.tempos.map((tempo) =>
      add('tempo', { tick: tempo.tick, bpm: Math.min(999, Math.max(5, tempo.bpm)) }),
    ),
    ...song.metres.map((metre) =>
      add('metre', { tick: metre.tick, numerator: metre.numerator, denominator: metre.denominator }),
    ),
    ...texts.map(({ tick, text }) => add('marker', { tick, text: text.slice(0, 400) })),
  ];
  for (const trackId of new Set(targets)) {
    if (trackId === LEAVE_OUT) continue;
    const partId = naturalId('part', cueId, trackId);
    edits.push({ kind: 'part', id: partId, op: 'add', fields: { trackId } });
    const target = itemOf(records, 'track', trackId);
    const keymap =
      useSwitches && target ? keymapOfTrack(records, target, target.instrumentId)?.keymap : undefined;
    const own = song.tracks.filter((_, i) => targets[i] === trackId);
    const part = partFromSmf(own, keymap, target?.articulation ?? 'long', end);
    edits.push(...part.notes.map((note) => add('note', { ...note, partId })));
    edits.push(...part.marks.map((mark) => add('mark', { ...mark, partId })));
    edits.push(...part.points.map((point) => add('point', { ...point, partId })));
  }
  return edits;
}
