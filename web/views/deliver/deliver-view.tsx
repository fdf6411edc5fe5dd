import { useEffect, useState } from 'react';
import { Download } from 'lucide-react';
import type { BounceFigures } from '#core/deliver/index.ts';
import { cleanMidi, performedMidi } from '#core/deliver/index.ts';
import { writeSmf } from '#core/formats/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import { listOf, useDocuments, useItem } from '../../state/documents.ts';
import { keymapOfTrack } from '../../state/keymaps.ts';
import { bounceOrder, PRE_ROLL_SECONDS, startBounce, type RunningBounce } from '../../sound/deliver.ts';
import { useInstruments } from '../../sound/instruments.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { orderedTracks, partOf, tempoOf } from '../../state/cue.ts';
import { clearOwnHearing, useOwnHearing } from '../../state/own-hearing.ts';
import { usePageTitle } from '../../app/page-title.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { Notice } from '../../ui/heading.tsx';
import { Pane, Panes } from '../../ui/panes.tsx';

type Format = 'i24' | 'f32';

interface Made {
  name: string;
  url: string;
  bytes: number;
  about: string;
}

/** A cue's name as part of a file name. */
const fileName = (name: string) => name.replace(/[^\p{L}\p{N}]+/gu, '-').replace(/^-|-$/g, '') || 'cue';

const minutes = (seconds: number) =>
  `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(1).padStart(4, '0')}`;
const minus = (value: number) => value.toFixed(1).replace('-', '−');

function aboutBounce(figures: BounceFigures, format: Format): string {
  const over =
    format === 'i24' && figures.truePeakDb > 0
      ? '; peaks above full scale were cut off: lower the tracks, or write 32-bit float'
      : '';
  const stolen = figures.stolen > 0 ? `; ${figures.stolen} voices had to give way` : '';
  return `${minutes(figures.frames / ENGINE_RATE)} long, ${minus(figures.integratedLufs)} LUFS, true peak ${minus(figures.truePeakDb)} dBTP${over}${stolen}`;
}

/** What leaves the house: the cue as sound and as MIDI. */
export function DeliverView() {
  const cue = useItem(
    'cue',
    useDocuments((state) => state.cueId),
  );
  const plans = usePerformance((state) => state.plans);
  const tracks = useDocuments((state) => listOf(state.records, 'track'));
  const loads = useInstruments((state) => state.loads);
  const [format, setFormat] = useState<Format>('i24');
  const [running, setRunning] = useState<RunningBounce>();
  const [share, setShare] = useState(0);
  const own = useOwnHearing();
  const hearsLess = tracks.some(({ id }) => own.muted.has(id) || own.soloed.has(id));
  const [wantsAsHeard, setAsHeard] = useState(false);
  const asHeard = hearsLess && wantsAsHeard;
  const [made, setMade] = useState<readonly Made[]>([]);
  const [trouble, setTrouble] = useState<string>();
  const base = fileName(cue?.name ?? 'cue');
  usePageTitle('Deliver', cue?.name);
  const waiting = tracks
    .filter((track) => track.instrumentId && !loads[track.instrumentId]?.complete)
    .map((track) => track.name);

  useEffect(() => () => running?.cancel(), [running]);

  const keep = (name: string, file: Blob, about: string) => {
    const url = URL.createObjectURL(file);
    setMade((list) => [{ name, url, bytes: file.size, about }, ...list]);
  };
  const bounceNow = async () => {
    setTrouble(undefined);
    setShare(0);
    const bounce = startBounce(bounceOrder(PRE_ROLL_SECONDS, asHeard), format, setShare);
    setRunning(bounce);
    try {
      const result = await bounce.result;
      if (result)
        keep(
          `${base}.wav`,
          result.file,
          `${format === 'i24' ? '24-bit' : '32-bit float'} WAV, ${aboutBounce(result.figures, format)}`,
        );
    } catch (error) {
      setTrouble(`The bounce failed: ${(error as Error).message}. Nothing was written; try again.`);
    }
    setRunning(undefined);
  };
  const midi = (performed: boolean) => {
    const { records } = useDocuments.getState();
    const facts = {
      tempos: listOf(records, 'tempo'),
      metres: listOf(records, 'metre'),
      markers: listOf(records, 'marker'),
    };
    const sources = orderedTracks(records)
      .map((track) => ({
        name: track.name,
        part: partOf(records, track.id).part,
        plan: plans[track.id],
        keymap: keymapOfTrack(records, track, track.instrumentId)?.keymap,
      }))
      .filter((source) => source.part.notes.length > 0);
    const bytes = writeSmf((performed ? performedMidi : cleanMidi)(facts, sources, tempoOf(records)));
    const about = performed
      ? 'MIDI as these libraries must be played: keyswitches, controllers, leads; one empty bar in front'
      : 'MIDI with notes on the grid and articulations as text';
    keep(
      `${base}-${performed ? 'performed' : 'clean'}.mid`,
      new Blob([bytes as BlobPart], { type: 'audio/midi' }),
      about,
    );
  };

  if (!cue) return <p className="p-8 text-ink-2">No cue is open. Choose one at the top.</p>;
  return (
    <div className="grid h-full grid-rows-[auto_minmax(0,1fr)]">
      <div className="flex flex-wrap items-baseline gap-3 border-b border-rule px-4 py-2.5">
        <h1 className="font-serif text-xl font-semibold">Deliver</h1>
        <span className="text-ink-3">{cue.name}</span>
      </div>
      <Panes id="deliver" names={['Border of the orders']}>
        <Pane id="orders" size={380} least={240}>
          <div className="h-full overflow-auto p-4">
            <h2 className="font-serif text-lg font-semibold">The cue as sound</h2>
            <p className="mt-1 mb-3 text-ink-2">
              All tracks with the shared hall, as they play now, faster than real time. The file begins{' '}
              {PRE_ROLL_SECONDS} s before bar 1, so that sounds which start ahead of the first beat are whole,
              and ends when the last tail is silent.
            </p>
            <Choice
              label="Format"
              value={format}
              disabled={running !== undefined}
              onChange={(event) => setFormat(event.target.value as Format)}
              options={[
                { value: 'i24', text: 'WAV, 24-bit, 48 kHz' },
                { value: 'f32', text: 'WAV, 32-bit float, 48 kHz' },
              ]}
            />
            {hearsLess && (
              <Notice tone="straw">
                You mute tracks for yourself or hear some alone. The file holds what the template says
                {asHeard ? ', less what you do not hear' : ''}.
                <label className="mt-1 flex items-center gap-2">
                  <input
                    type="checkbox"
                    checked={wantsAsHeard}
                    disabled={running !== undefined}
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
                    className="h-2 flex-1 accent-(--cool)"
                    value={share}
                    max={1}
                    aria-label="Bounce"
                  />
                  <span className="w-10 text-right" role="status">
                    {Math.round(share * 100)} %
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

            <h2 className="mt-7 font-serif text-lg font-semibold">The cue as MIDI</h2>
            <p className="mt-1 mb-3 text-ink-2">
              Clean: notes on the grid, curves as controllers, articulations as text. Performed: with the
              keyswitches, controllers and leads these libraries need, for playing elsewhere.
            </p>
            <div className="flex gap-2">
              <Button onClick={() => midi(false)}>MIDI, clean</Button>
              <Button onClick={() => midi(true)}>MIDI, performed</Button>
            </div>
          </div>
        </Pane>
        <Pane id="files" least={240}>
          <section aria-labelledby="made-files" className="h-full overflow-auto p-4">
            <h2 id="made-files" className="font-serif text-lg font-semibold">
              Files of this visit
            </h2>
            {made.length === 0 ? (
              <p className="mt-1 text-ink-2">
                Nothing yet. What you bounce or write appears here, ready to be saved.
              </p>
            ) : (
              <ul className="mt-2" aria-live="polite">
                {made.map((file) => (
                  <li key={file.url} className="flex items-center gap-4 border-b border-rule-soft py-2">
                    <div className="min-w-0 flex-1">
                      <div className="font-semibold">{file.name}</div>
                      <div className="text-ink-2">{file.about}</div>
                    </div>
                    <span className="text-ink-2">
                      {(file.bytes / 1e6).toFixed(file.bytes < 1e5 ? 3 : 1)} MB
                    </span>
                    <a
                      href={file.url}
                      download={file.name}
                      className="inline-flex min-h-6 items-center gap-1.5 rounded-md border border-rule bg-raised px-2.5 py-1 hover:border-ink-3"
                    >
                      <Download size={14} aria-hidden />
                      Save
                    </a>
                  </li>
                ))}
              </ul>
            )}
          </section>
        </Pane>
      </Panes>
    </div>
  );
}
