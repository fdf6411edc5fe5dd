import { useState } from 'react';
import { depthOfRest, fitToRoom, type RoomFit } from '#core/balance/index.ts';
import { byNearness, positionName } from '#core/catalogue/index.ts';
import { solveFor, useBalance } from '../../sound/balance.ts';
import { fitTrackToRoom } from '../../state/balance.ts';
import { orderedTracks } from '../../state/cue.ts';
import { useDocuments, type Item } from '../../state/documents.ts';
import { useLibraries } from '../../state/libraries.ts';
import { Button } from '../../ui/button.tsx';
import { hertzText } from '../../ui/hertz.ts';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { signed } from './figures.ts';

interface Found {
  fits: RoomFit[];
  depthDb: number | undefined;
  nowDb: number | undefined;
  sections: number;
}

/** Brings a section that was recorded elsewhere into the room of the others: tone of its positions, depth, hall. */
export function RoomPane({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  const [found, setFound] = useState<Found>();
  const [told, setTold] = useState<string>();
  const find = () => {
    setTold(undefined);
    const { sections } = useBalance.getState();
    const own = sections[track.id];
    const others = othersOf(track).flatMap(({ id }) => sections[id] ?? []);
    const heard = others.filter(({ isSilent }) => !isSilent);
    const order = [...new Set([own, ...heard].flatMap((one) => Object.keys(one.positions)))].sort(byNearness);
    setFound({
      fits: fitToRoom(own, heard, order),
      depthDb: depthOfRest(heard.map(({ figures }) => figures?.depthDb)),
      nowDb: own.figures?.depthDb,
      sections: heard.length,
    });
  };
  const take = async () => {
    if (!found) return;
    const { fits, depthDb, nowDb } = found;
    const loudness = useBalance.getState().sections[track.id]?.figures?.loudness;
    const solved =
      depthDb === undefined || nowDb === undefined || loudness === undefined
        ? undefined
        : await solveFor(track.id, { depthDb, loudness }, { hall: true, width: false });
    fitTrackToRoom(track.id, fits, solved?.mix, `Fit ${track.name} into the room`);
    setFound(undefined);
    const depth = solved?.reached.find(({ aim }) => aim === 'depthDb');
    if (depth && !depth.isMet)
      setTold(
        `Its depth comes to ${signed(depth.after)} dB, not ${signed(depth.wanted)} dB: it was recorded so.`,
      );
  };
  const isNothing = found && found.fits.length === 0 && (found.depthDb === undefined || isNear(found));
  return (
    <>
      <GroupTitle>Room of the others</GroupTitle>
      <p className="text-xs text-ink-3">
        Holds it against sections of other libraries: what their rooms do to tone and depth.
      </p>
      <Button className="mt-1" onClick={find}>
        Fit into their room
      </Button>
      {told && <p className="mt-1 text-xs text-straw">{told}</p>}
      {found && (
        <Notice tone="cool">
          {found.sections === 0 ? (
            'No section of another library was measured in this passage.'
          ) : isNothing ? (
            'It sounds as if it had been recorded there: nothing to do.'
          ) : (
            <>
              {found.fits.map((fit) => (
                <p key={fit.positionId}>
                  {positionName(fit.positionId)}: {fit.bands.map(bandText).join(', ')}. Off by{' '}
                  {fit.afterDb.toFixed(1)} instead of {fit.beforeDb.toFixed(1)} dB, against {fit.sections}{' '}
                  {fit.sections === 1 ? 'section' : 'sections'}.
                </p>
              ))}
              {found.depthDb !== undefined && found.nowDb !== undefined && !isNear(found) && (
                <p>
                  Depth from {signed(found.nowDb)} to {signed(found.depthDb)} dB, the middle of the others.
                </p>
              )}
              <button
                type="button"
                disabled={!mayEdit}
                className="min-h-6 text-cool underline"
                onClick={() => void take()}
              >
                Do so
              </button>
            </>
          )}
        </Notice>
      )}
    </>
  );
}

const isNear = ({ depthDb, nowDb }: Found) =>
  depthDb !== undefined && nowDb !== undefined && Math.abs(depthDb - nowDb) < 0.5;

const bandText = ({ shape, hertz, gainDb }: RoomFit['bands'][number]) =>
  `${shape} ${signed(gainDb)} dB at ${hertzText(hertz)}`;

/** Tracks whose instruments are of other libraries than that of a track. */
function othersOf(track: Item<'track'>): Item<'track'>[] {
  const libraries = useLibraries.getState().libraries ?? [];
  const libraryOf = (instrumentId: string | null) =>
    libraries.find(({ instruments }) => instruments.some(({ id }) => id === instrumentId))?.id;
  const own = libraryOf(track.instrumentId);
  return orderedTracks(useDocuments.getState().records).filter(
    (other) => other.id !== track.id && other.instrumentId !== null && libraryOf(other.instrumentId) !== own,
  );
}
