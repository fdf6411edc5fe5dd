import { useState } from 'react';
import { LEAST_CERTAINTY, type LightMix } from '#core/balance/index.ts';
import { positionName } from '#core/catalogue/index.ts';
import type { TrackMix } from '#core/mixing/index.ts';
import { TrackRulers } from '../../app/track-rulers.tsx';
import { lightMixOf, useBalance } from '../../sound/balance.ts';
import { copyMixTo, sendTrackTo, takeMix } from '../../state/balance.ts';
import { orderedTracks } from '../../state/cue.ts';
import { useDocuments, useOwnedBy, type Item } from '../../state/documents.ts';
import { Button } from '../../ui/button.tsx';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { AimsPane } from './aims-pane.tsx';
import { lufs, signed } from './figures.ts';
import { RoomPane } from './room-pane.tsx';
import { SeatPane } from './seat-pane.tsx';
import { StemField } from './stem-field.tsx';

/** One section: its level and send, what was measured of its positions, its aims. */
export function SectionPane({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  const section = useBalance((state) => state.sections[track.id]);
  return (
    <>
      <h2 className="mt-4 font-serif text-lg font-semibold first:mt-0">{track.name}</h2>
      <TrackRulers track={track} mayEdit={mayEdit} />
      <SectionStem track={track} mayEdit={mayEdit} />
      <SeatPane track={track} mayEdit={mayEdit} />
      {!section ? (
        <p className="mt-3 text-ink-3">Not measured yet. Press “Measure” above.</p>
      ) : section.isSilent ? (
        <p className="mt-3 text-ink-3">
          It rests in this passage. Set the loop over bars in which it plays, and measure again.
        </p>
      ) : (
        <>
          <GroupTitle>What was measured</GroupTitle>
          <Positions trackId={track.id} />
          <p className="mt-1 text-xs text-ink-2">
            {section.figures && `Sides correlate by ${signed(section.figures.correlation, 2)}. `}
            True peak {signed(section.truePeakDb)} dBTP when it was measured, without the hall.
          </p>
          <Combing track={track} mayEdit={mayEdit} />
          <AimsPane track={track} mayEdit={mayEdit} />
          <RoomPane track={track} mayEdit={mayEdit} />
          <Light track={track} mayEdit={mayEdit} />
        </>
      )}
      <CopyMix track={track} mayEdit={mayEdit} />
    </>
  );
}

/** The stem to which all of its positions go. */
function SectionStem({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  const mixes = useOwnedBy('positionMix', track.id);
  const stems = new Set(mixes.map(({ stem }) => stem));
  if (stems.size === 0) return null;
  return (
    <StemField
      stem={stems.size === 1 ? [...stems][0] : undefined}
      disabled={!mayEdit}
      onCommit={(stem) => sendTrackTo(track.id, stem)}
    />
  );
}

/** Arrival, depth and loudness of each position by itself. */
function Positions({ trackId }: { trackId: string }) {
  const section = useBalance((state) => state.sections[trackId]);
  if (!section) return null;
  return (
    <table className="w-full text-xs">
      <thead>
        <tr className="text-left text-ink-3">
          <th className="font-normal">Position</th>
          <th className="text-right font-normal" title="When the sound comes to it, after the first">
            arrives
          </th>
          <th className="text-right font-normal" title="Direct sound against the room">
            depth
          </th>
          <th className="text-right font-normal" title="Loudness at 0 dB">
            LUFS
          </th>
        </tr>
      </thead>
      <tbody>
        {Object.entries(section.positions).map(([id, own]) => {
          const arrival = section.arrivals.find((one) => one.id === id);
          const isSure = arrival !== undefined && arrival.certainty >= LEAST_CERTAINTY;
          return (
            <tr key={id} className="border-t border-rule-soft">
              <th scope="row" className="py-0.5 text-left font-normal">
                {positionName(id)}
                {isSure && arrival.isInverted && <span className="text-warm"> turned over</span>}
              </th>
              <td className="text-right">
                {isSure ? `${signed(arrival.delaySeconds * 1000)} ms` : 'unsure'}
              </td>
              <td className="text-right">{signed(own.depthDb)}</td>
              <td className="text-right">{lufs(own.loudness)}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** Where positions work against each other, and what mends it. */
function Combing({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  const section = useBalance((state) => state.sections[track.id]);
  if (!section) return null;
  const { comb, repair } = section;
  const [deepest] = comb.notches;
  if (!deepest)
    return (
      <p className="mt-1.5 text-xs text-ink-3">
        Its positions do not cancel each other anywhere that is heard.
      </p>
    );
  return (
    <Notice tone={repair ? 'straw' : 'cool'}>
      Its positions cancel each other in {comb.notches.length} {comb.notches.length === 1 ? 'band' : 'bands'},
      most at {Math.round(deepest.hertz)} Hz ({signed(deepest.lossDb)} dB).{' '}
      {repair ? (
        <>
          {describe(repair.mix)} leaves {signed(repair.after.lossDb)} dB of loss in all instead of{' '}
          {signed(repair.before.lossDb)} dB.{' '}
          <button
            type="button"
            disabled={!mayEdit}
            className="min-h-6 text-cool underline"
            onClick={() => takeMix(track.id, repair.mix, 'Bring positions together')}
          >
            Do so
          </button>
        </>
      ) : (
        'Neither delay nor polarity would change that by much: it is how the room sounds.'
      )}
    </Notice>
  );
}

function describe(mix: TrackMix): string {
  const delays = Object.entries(mix.positions).filter(([, { delayMs }]) => delayMs > 0);
  const turned = Object.entries(mix.positions).filter(([, { inverted }]) => inverted);
  const parts = [
    ...delays.map(([id, { delayMs }]) => `${positionName(id)} later by ${delayMs.toFixed(1)} ms`),
    ...turned.map(([id]) => `${positionName(id)} turned over`),
  ];
  return parts.length > 0 ? `To have ${parts.join(', ')}` : 'To undo delays and polarities';
}

/** A mix of one or two positions that stands in for the full one. */
function Light({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  const [found, setFound] = useState<LightMix | 'none'>();
  const find = (most: 1 | 2) => void lightMixOf(track.id, most).then((light) => setFound(light ?? 'none'));
  return (
    <>
      <GroupTitle>Light mix</GroupTitle>
      <p className="text-xs text-ink-3">Fewer positions that stand in for all, for a smaller machine.</p>
      <div className="mt-1 flex gap-1.5">
        <Button onClick={() => find(1)}>One position</Button>
        <Button onClick={() => find(2)}>Two</Button>
      </div>
      {found === 'none' && <p className="mt-1 text-xs text-ink-3">It has no more positions than that.</p>}
      {found && found !== 'none' && (
        <div className="mt-1 text-xs">
          {found.ids.map(positionName).join(' and ')}: off by {found.errorDb.toFixed(1)} dB in loudness, depth
          and width together.{' '}
          <button
            type="button"
            disabled={!mayEdit}
            className="min-h-6 text-cool underline"
            onClick={() => {
              takeMix(track.id, found.mix, 'Light mix');
              setFound(undefined);
            }}
          >
            Take it
          </button>
        </div>
      )}
    </>
  );
}

/** Copies how this section is mixed to others of its family. */
function CopyMix({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  const family = useDocuments((state) => orderedTracks(state.records)).filter(
    (one) => one.family === track.family && one.id !== track.id,
  );
  if (family.length === 0) return null;
  return (
    <>
      <GroupTitle>Copy</GroupTitle>
      <Button
        disabled={!mayEdit}
        title={`Gives ${family.map(({ name }) => name).join(', ')} the levels, delays, tone and send of this section, as far as they have its positions.`}
        onClick={() =>
          copyMixTo(
            track.id,
            family.map(({ id }) => id),
            `Copy the mix of ${track.name}`,
          )
        }
      >
        To the other {family.length} of its family
      </Button>
    </>
  );
}
