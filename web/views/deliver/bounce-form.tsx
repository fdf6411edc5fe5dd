import { CoresChoice } from '../../app/cores-choice.tsx';
import { useEffect, useState } from 'react';
import { divideByStem, type BounceFigures, type BounceOrder } from '#core/deliver/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import {
  bounceOrder,
  PRE_ROLL_SECONDS,
  startBounce,
  zipFiles,
  type BounceWishes,
} from '../../sound/deliver.ts';
import type { BouncedFile } from '../../sound/bounce-protocol.ts';
import type { BounceFormat } from '../../sound/file-writer.ts';
import { makeFolder, removeFolder, type Folder } from '../../sound/folders.ts';
import { wantedHall } from '../../sound/hall.ts';
import { useInstruments } from '../../sound/instruments.ts';
import { keepFile } from '../../sound/made-files.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { whatIsMissing } from '../../sound/readiness.ts';
import { metreOf, orderedTracks, tempoOf } from '../../state/cue.ts';
import { listOf, ownedBy, useDocuments } from '../../state/documents.ts';
import { clearOwnHearing, useOwnHearing } from '../../state/own-hearing.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { Notice } from '../../ui/heading.tsx';
import { fileName } from './made-files.tsx';

const WRITTEN = [
  { value: 'mix', text: 'The mix' },
  { value: 'groups', text: 'The mix, each stem, and the hall' },
  { value: 'stems', text: 'The mix, each track, and the hall' },
] as const;
type Written = (typeof WRITTEN)[number]['value'];

const minutes = (seconds: number) =>
  `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(1).padStart(4, '0')}`;
const minus = (value: number) => value.toFixed(1).replace('-', '−');

function aboutBounce(figures: BounceFigures, format: BounceFormat): string {
  const over =
    format === 'i24' && figures.truePeakDb > 0
      ? '; peaks above full scale were cut off: lower the tracks, or write 32-bit float'
      : '';
  const stolen = figures.stolen > 0 ? `; ${figures.stolen} voices had to give way` : '';
  return `${minutes(figures.frames / ENGINE_RATE)} long, ${minus(figures.integratedLufs)} LUFS, true peak ${minus(figures.truePeakDb)} dBTP${over}${stolen}`;
}

/** Names that differ, in order: of equal ones the later get a number. */
function distinct(names: readonly string[]): string[] {
  const seen = new Map<string, number>();
  return names.map((name) => {
    const count = (seen.get(name) ?? 0) + 1;
    seen.set(name, count);
    return count === 1 ? name : `${name}-${count}`;
  });
}

/** An order as it is to be written, and what is asked for beside the mix: tracks by name, or stems. */
function asWritten(
  order: BounceOrder,
  written: Written,
): { order: BounceOrder; wishes: Pick<BounceWishes, 'stems' | 'groups' | 'hallFile'> } {
  if (written === 'mix') return { order, wishes: {} };
  const { records } = useDocuments.getState();
  const tracks = orderedTracks(records);
  if (written === 'stems') {
    const names = distinct(
      tracks.map((track, i) => `${String(i + 1).padStart(2, '0')}-${fileName(track.name)}`),
    );
    return { order, wishes: { stems: new Map(names.map((name, i) => [i, name])), hallFile: true } };
  }
  const stems = tracks.map(
    ({ id }) => new Map(ownedBy(records, 'positionMix', id).map((one) => [one.positionId, one.stem])),
  );
  const divided = divideByStem(
    order,
    (track, positionId) => stems[track].get(positionId) || tracks[track].family,
  );
  const names = distinct(divided.groups.map(({ name }) => fileName(name)));
  const groups = divided.groups.map((group, i) => ({ ...group, name: names[i] }));
  return { order: divided.order, wishes: { groups, hallFile: true } };
}

/** Bar of a cue at a time, and the cue's last. */
function barAt(seconds: number): number {
  const { records } = useDocuments.getState();
  return metreOf(records).toBarBeat(Math.max(0, tempoOf(records).toTicks(seconds))).bar;
}

interface Progress {
  frames: number;
  endFrame: number;
}

const barsOf = ({ frames, endFrame }: Progress) => ({
  now: Math.min(
    barAt(frames / ENGINE_RATE - PRE_ROLL_SECONDS),
    barAt(endFrame / ENGINE_RATE - PRE_ROLL_SECONDS),
  ),
  last: barAt(endFrame / ENGINE_RATE - PRE_ROLL_SECONDS),
});

/** Orders a bounce, and shows how far it has come. */
export function BounceForm({ base }: { base: string }) {
  const plans = usePerformance((state) => state.plans);
  const tracks = useDocuments((state) => listOf(state.records, 'track'));
  useInstruments((state) => state.loads);
  const own = useOwnHearing();
  const hearsLess =
    (own.positions?.size ?? 0) > 0 || tracks.some(({ id }) => own.muted.has(id) || own.soloed.has(id));
  const [wantsAsHeard, setAsHeard] = useState(false);
  const asHeard = hearsLess && wantsAsHeard;
  const [format, setFormat] = useState<BounceFormat>('i24');
  const [written, setWritten] = useState<Written>('mix');
  const [zipped, setZipped] = useState(true);
  const [running, setRunning] = useState<{ cancel: () => void; zips: boolean }>();
  const [progress, setProgress] = useState<Progress>({ frames: 0, endFrame: 1 });
  const [trouble, setTrouble] = useState<string>();
  // Looked at again whenever plans, recordings or tracks change.
  const { waiting } = whatIsMissing();
  useEffect(() => () => running?.cancel(), [running]);

  const bounceNow = async () => {
    setTrouble(undefined);
    setProgress({ frames: 0, endFrame: 1 });
    try {
      await wantedHall();
      const folder = await makeFolder();
      const { order, wishes } = asWritten(bounceOrder(PRE_ROLL_SECONDS, asHeard), written);
      const bounce = startBounce(order, { format, folder, ...wishes }, (frames, endFrame) =>
        setProgress({ frames, endFrame }),
      );
      setRunning({ cancel: bounce.cancel, zips: false });
      const made = await bounce.result;
      if (made) await keep(made.files, made.figures, folder);
    } catch (error) {
      setTrouble(`The bounce failed: ${(error as Error).message}. Nothing was written; try again.`);
    }
    setRunning(undefined);
  };
  const keep = async (files: readonly BouncedFile[], figures: BounceFigures, folder?: Folder) => {
    const kind = format === 'i24' ? '24-bit WAV' : '32-bit float WAV';
    const about = `${kind}, ${aboutBounce(figures, format)}`;
    const [mix, ...others] = files;
    if (others.length === 0) keepFile(`${base}.wav`, mix.file, about, folder);
    else if (zipped) {
      const into = folder && (await makeFolder());
      const named = files.map(({ name, file }) => ({ name: `${base}-${name}.wav`, file }));
      const zip = zipFiles(named, into);
      const stopped = new Promise<undefined>((resolve) =>
        setRunning({
          zips: true,
          cancel: () => {
            zip.cancel();
            resolve(undefined);
          },
        }),
      );
      try {
        const file = await Promise.race([zip.result, stopped]);
        if (file) keepFile(`${base}.zip`, file, `${files.length} files, ${about}`, into);
        else if (into) await removeFolder(into);
      } catch (error) {
        if (into) await removeFolder(into);
        throw error;
      } finally {
        if (folder) await removeFolder(folder);
      }
    } else {
      // The last is shown first.
      for (const { name, file } of [...others].reverse())
        keepFile(
          `${base}-${name}.wav`,
          file,
          `${kind}, ${minutes(figures.frames / ENGINE_RATE)} long`,
          folder,
        );
      keepFile(`${base}-${mix.name}.wav`, mix.file, about, folder);
    }
  };
  const bars = barsOf(progress);
  const busy = running !== undefined;
  return (
    <>
      <h2 className="font-serif text-lg font-semibold">The cue as sound</h2>
      <p className="mt-1 mb-3 text-ink-2">
        All tracks with the shared hall, as they play now, faster than real time. Files begin{' '}
        {PRE_ROLL_SECONDS} s before bar 1, so that sounds which start ahead of the first beat are whole, and
        end when the last tail is silent. Tracks add up to the mix, with the hall beside them.
      </p>
      <div className="grid gap-2">
        <Choice
          label="Write"
          value={written}
          disabled={busy}
          onChange={(event) => setWritten(event.target.value as Written)}
          options={[...WRITTEN]}
        />
        {written !== 'mix' && (
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={zipped}
              disabled={busy}
              onChange={(event) => setZipped(event.target.checked)}
            />
            All of it in one zip
          </label>
        )}
        <Choice
          label="Format"
          value={format}
          disabled={busy}
          onChange={(event) => setFormat(event.target.value as BounceFormat)}
          options={[
            { value: 'i24', text: 'WAV, 24-bit, 48 kHz' },
            { value: 'f32', text: 'WAV, 32-bit float, 48 kHz' },
          ]}
        />
        <CoresChoice disabled={busy} />
      </div>
      {hearsLess && (
        <Notice tone="straw">
          You mute tracks for yourself or hear some alone. The file holds what the template says
          {asHeard ? ', less what you do not hear' : ''}.
          <label className="mt-1 flex items-center gap-2">
            <input
              type="checkbox"
              checked={wantsAsHeard}
              disabled={busy}
              onChange={(event) => setAsHeard(event.target.checked)}
            />
            Write only what I hear now
          </label>
          <button type="button" className="text-cool underline" onClick={clearOwnHearing}>
            Hear everything again
          </button>
        </Notice>
      )}
      {waiting.length > 0 && (
        <Notice tone="straw">
          Still loading: {waiting.join(', ')}. A bounce has to wait for every recording.
        </Notice>
      )}
      <div className="mt-3 flex items-center gap-2">
        {running ? (
          <>
            <progress
              className="h-2 min-w-0 flex-1 accent-(--cool)"
              value={running.zips ? undefined : progress.frames / progress.endFrame}
              max={1}
              aria-label="Bounce"
            />
            <span className="min-w-24 text-right whitespace-nowrap" role="status">
              {running.zips ? 'Into the zip …' : `bar ${bars.now} of ${bars.last}`}
            </span>
            <Button look="loss" onClick={() => running.cancel()}>
              Cancel
            </Button>
          </>
        ) : (
          <Button
            look="main"
            disabled={waiting.length > 0 || Object.keys(plans).length === 0}
            onClick={() => void bounceNow()}
          >
            Bounce the cue
          </Button>
        )}
      </div>
      <div role="alert">{trouble && <Notice tone="warm">{trouble}</Notice>}</div>
    </>
  );
}
