import { azimuthOf, metresTo, onStage, STAGE } from '#core/mixing/index.ts';
import { bringTo, useSeating } from '../../sound/seating.ts';
import { useDocuments, useItem, useOwnedBy, type Item } from '../../state/documents.ts';
import { unseat } from '../../state/seating.ts';
import { Button } from '../../ui/button.tsx';
import { GroupTitle } from '../../ui/heading.tsx';
import { numberWithin } from '../../ui/numbers.ts';
import { Typed } from '../../ui/typed.tsx';
import { signed } from './figures.ts';
import { directionText, metresText } from './place-text.ts';

/** Where one section sits, and how far what was recorded could be brought there. */
export function SeatPane({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  const [seat] = useOwnedBy('seat', track.id);
  const template = useItem(
    'template',
    useDocuments((state) => state.templateId),
  );
  const seated = useSeating((state) => state.seated[track.id]);
  const working = useSeating((state) => state.working > 0);
  if (!seat) return null;
  const listener = template?.listenerMetres ?? 0;
  const go = (to: { x: number; y: number }) =>
    void bringTo([{ trackId: track.id, seat: onStage(to) }], `Seat of ${track.name}`);
  return (
    <>
      <GroupTitle>Seat</GroupTitle>
      <p className="text-sm">
        {directionText(azimuthOf(seat, listener))}, {metresText(metresTo(seat, listener))} from who listens.
      </p>
      <div className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1 text-xs">
        <label className="flex items-center gap-1">
          to the right
          <Typed
            label={`Metres to the right, ${track.name}`}
            value={signed(seat.x, 2).replace('+', '')}
            disabled={!mayEdit}
            width="w-14"
            parse={numberWithin(STAGE.left, STAGE.right, 'm')}
            onCommit={(x) => go({ x, y: seat.y })}
          />
        </label>
        <label className="flex items-center gap-1">
          to the back
          <Typed
            label={`Metres to the back, ${track.name}`}
            value={seat.y.toFixed(2)}
            disabled={!mayEdit}
            width="w-14"
            parse={numberWithin(STAGE.front, STAGE.back, 'm')}
            onCommit={(y) => go({ x: seat.x, y })}
          />
          m
        </label>
      </div>
      {seated && <HowFar seated={seated} />}
      <div className="mt-1.5 flex gap-1.5">
        <Button
          disabled={!mayEdit || working}
          title="Sets its levels, its balance and its delays so that it is heard from its seat, as loud as now."
          onClick={() => go(seat)}
        >
          Bring it there
        </Button>
        <Button disabled={!mayEdit} onClick={() => unseat([track.id])}>
          Take the seat away
        </Button>
      </div>
    </>
  );
}

function HowFar({
  seated: { depth, balance },
}: {
  seated: ReturnType<typeof useSeating.getState>['seated'][string];
}) {
  return (
    <p className={`mt-1 text-xs ${depth?.isMet !== false && balance.isMet ? 'text-ink-2' : 'text-straw'}`}>
      {!depth
        ? 'Its depth is not known: it was panned and delayed alone.'
        : depth.isMet
          ? `Its depth came from ${signed(depth.before)} to ${signed(depth.after)} dB.`
          : depth.wanted > depth.reach[1]
            ? `It cannot be brought so near: its recording gives ${signed(depth.reach[1])} dB at most, the seat asks for ${signed(depth.wanted)} dB. It is now at ${signed(depth.after)} dB.`
            : depth.wanted < depth.reach[0]
              ? `It cannot be brought so far away: it gives ${signed(depth.reach[0])} dB at least, the seat asks for ${signed(depth.wanted)} dB. It is now at ${signed(depth.after)} dB.`
              : `Its depth came from ${signed(depth.before)} to ${signed(depth.after)} dB, not to ${signed(depth.wanted)} dB.`}{' '}
      {!balance.isMet &&
        `To the side it comes as far as ${signed(balance.after)} dB between right and left, not ${signed(balance.wanted)} dB.`}
    </p>
  );
}
