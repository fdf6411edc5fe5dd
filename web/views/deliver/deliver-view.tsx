import { useState } from 'react';
import { toast } from 'sonner';
import { cleanMidi, performedMidi } from '#core/deliver/index.ts';
import { writeMusicXml, writeSmf } from '#core/formats/index.ts';
import { listOf, useDocuments, useItem } from '../../state/documents.ts';
import { keymapOfTrack, vocabularyOf } from '../../state/keymaps.ts';
import { keepFile } from '../../sound/made-files.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { orderedTracks, partOf, tempoOf } from '../../state/cue.ts';
import { SCORE_PITCHES, scoreOf, type ScorePitch } from '../../state/score.ts';
import { usePageTitle } from '../../app/page-title.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { Pane, Panes } from '../../ui/panes.tsx';
import { BounceForm } from './bounce-form.tsx';
import { fileName, MadeFiles } from './made-files.tsx';

/** What leaves the house: the cue as sound and as MIDI. */
export function DeliverView() {
  const cue = useItem(
    'cue',
    useDocuments((state) => state.cueId),
  );
  const plans = usePerformance((state) => state.plans);
  const base = fileName(cue?.name ?? 'cue');
  usePageTitle('Deliver', cue?.name);
  const [pitch, setPitch] = useState<ScorePitch>('sounding');

  const midi = (performed: boolean) => {
    const { records } = useDocuments.getState();
    const facts = {
      tempos: listOf(records, 'tempo'),
      metres: listOf(records, 'metre'),
      keys: listOf(records, 'signature'),
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
    keepFile(
      `${base}-${performed ? 'performed' : 'clean'}.mid`,
      new Blob([bytes as BlobPart], { type: 'audio/midi' }),
      about,
    );
  };

  const musicXml = () => {
    const { records } = useDocuments.getState();
    const tracks = orderedTracks(records).filter(({ id }) => partOf(records, id).part.notes.length > 0);
    if (tracks.length === 0) {
      toast('No track has notes yet.');
      return;
    }
    keepFile(
      `${base}.musicxml`,
      new Blob([writeMusicXml(scoreOf(records, cue?.id, tracks, pitch), vocabularyOf(records))], {
        type: 'application/vnd.recordare.musicxml+xml',
      }),
      pitch === 'sounding'
        ? 'MusicXML: the cue as a score, every part as it sounds'
        : 'MusicXML: the cue as a score, every part as its players read it',
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
            <BounceForm base={base} />
            <h2 className="mt-7 font-serif text-lg font-semibold">The cue as MIDI</h2>
            <p className="mt-1 mb-3 text-ink-2">
              Clean: notes on the grid, curves as controllers, articulations as text. Performed: with the
              keyswitches, controllers and leads these libraries need, for playing elsewhere.
            </p>
            <div className="flex gap-2">
              <Button onClick={() => midi(false)}>MIDI, clean</Button>
              <Button onClick={() => midi(true)}>MIDI, performed</Button>
            </div>
            <h2 className="mt-7 font-serif text-lg font-semibold">The cue as a score</h2>
            <p className="mt-1 mb-3 text-ink-2">
              MusicXML for notation programs: notes as they are written, marks as words, signs and slurs,
              dynamics and hairpins from the curves, syllables, tempos, metres, keys and markers.
            </p>
            <div className="flex flex-wrap items-end gap-2">
              <Choice
                label="Pitch"
                value={pitch}
                options={SCORE_PITCHES}
                onChange={(event) => setPitch(event.target.value as ScorePitch)}
              />
              <Button onClick={musicXml}>MusicXML</Button>
            </div>
          </div>
        </Pane>
        <Pane id="files" least={240}>
          <MadeFiles />
        </Pane>
      </Panes>
    </div>
  );
}
