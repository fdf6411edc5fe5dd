import { useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import {
  azimuthOf,
  azimuthOfBalance,
  metresAt,
  metresTo,
  onStage,
  seatAt,
  type Seat,
} from '#core/mixing/index.ts';
import { positionName } from '#core/catalogue/index.ts';
import { useBalance } from '../../sound/balance.ts';
import { SHARED_HALLS, type HallModel } from '#core/rooms/index.ts';
import { bringTo } from '../../sound/seating.ts';
import { orderedTracks } from '../../state/cue.ts';
import { useDocuments, useItem } from '../../state/documents.ts';
import { placesOf, wallsOf, type Place } from '../../state/seating.ts';
import { choose, useChosen } from './balance-state.ts';
import { directionText, metresText } from './place-text.ts';
import { sectorPath, shapeOf } from './sector.ts';
import { SeatingBar } from './seating-bar.tsx';

/** What of the hall is shown, metres: to the sides, behind the last row, and before the conductor. */
const VIEW = { side: 12.4, back: 12.9, front: 3.2 };
const STEP_METRES = 0.25;
const FINE_METRES = 0.05;
/** A label has room for so many signs a metre. */
const SIGNS_PER_METRE = 5.2;
const LINE = 0.4;
const THERE_METRES = 0.6;

/** The orchestra from above: seats that are asked for, where sections are heard now, and how near or far they can come. */
export function SeatingPlan({ mayEdit }: { mayEdit: boolean }) {
  const records = useDocuments((state) => state.records);
  const template = useItem(
    'template',
    useDocuments((state) => state.templateId),
  );
  const places = useMemo(() => placesOf(records), [records]);
  const unseated = useMemo(() => {
    const seated = new Set(places.flatMap(({ tracks }) => tracks.map(({ id }) => id)));
    return orderedTracks(records).filter(({ id }) => !seated.has(id));
  }, [records, places]);
  const listener = template?.listenerMetres ?? 0;
  const hall = useMemo(() => wallsOf(template), [template]);
  const chosenId = useChosen((state) => state.trackId);
  const svg = useRef<SVGSVGElement>(null);
  const [dragged, setDragged] = useState<{ at: number; seat: Seat }>();
  const shown = places.map((place, i) => (dragged?.at === i ? { ...place, ...dragged.seat } : place));
  const chosenAt = shown.findIndex(({ tracks }) => tracks.some(({ id }) => id === chosenId));

  const move = (place: Place, seat: Seat) => {
    const [first, ...others] = place.tracks;
    void bringTo(
      place.tracks.map(({ id }) => ({ trackId: id, seat: onStage(seat) })),
      others.length > 0 ? `Seat of ${first.name} and ${others.length} more` : `Seat of ${first.name}`,
    );
  };
  const seatUnder = (event: PointerEvent): Seat | undefined => {
    const matrix = svg.current?.getScreenCTM();
    if (!matrix) return undefined;
    const { x, y } = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse());
    return onStage({ x, y: -y });
  };
  const onKey = (place: Place) => (event: KeyboardEvent) => {
    const size = event.shiftKey ? FINE_METRES : STEP_METRES;
    const by: Record<string, readonly [number, number]> = {
      ArrowLeft: [-size, 0],
      ArrowRight: [size, 0],
      ArrowUp: [0, size],
      ArrowDown: [0, -size],
    };
    if (event.key === 'Enter') choose(place.tracks[0].id);
    if (!(event.key in by) || !mayEdit) return;
    event.preventDefault();
    event.stopPropagation();
    const [x, y] = by[event.key];
    move(place, { x: place.x + x, y: place.y + y });
  };

  return (
    <div className="flex h-full min-h-0 flex-col">
      <SeatingBar mayEdit={mayEdit} />
      <svg
        ref={svg}
        role="group"
        aria-label="Seating plan from above"
        className="min-h-0 w-full flex-1"
        viewBox={`${-VIEW.side} ${-VIEW.back} ${2 * VIEW.side} ${VIEW.back + VIEW.front}`}
        onPointerMove={(event) => {
          const seat = dragged && seatUnder(event);
          if (seat) setDragged({ at: dragged.at, seat });
        }}
        onPointerUp={() => {
          const place = dragged && places[dragged.at];
          setDragged(undefined);
          if (place && Math.hypot(place.x - dragged.seat.x, place.y - dragged.seat.y) > 0.04)
            move(place, dragged.seat);
        }}
        onPointerCancel={() => setDragged(undefined)}
      >
        <Walls hall={hall} listener={listener} />
        {shown.map((place, i) => {
          const [first] = place.tracks;
          const { path, width } = shapeOf(place, first.family);
          const isChosen = i === chosenAt;
          const text = place.tracks.map((one) => one.name).join(', ');
          const where = `${directionText(azimuthOf(place, listener))}, ${metresText(metresTo(place, listener))}`;
          return (
            <g
              key={first.id}
              role="button"
              tabIndex={0}
              aria-pressed={isChosen}
              aria-label={`${text}: ${where}`}
              style={{ outline: 'none' }}
              className={`group ${mayEdit ? 'cursor-grab' : 'cursor-pointer'} touch-none`}
              onKeyDown={onKey(place)}
              onPointerDown={(event) => {
                choose(first.id);
                if (!mayEdit || event.button !== 0) return;
                svg.current?.setPointerCapture(event.pointerId);
                setDragged({ at: i, seat: { x: place.x, y: place.y } });
              }}
            >
              <title>{`${text} · ${where}`}</title>
              <path
                d={path}
                fill={isChosen ? 'var(--cool-tint)' : 'var(--raised)'}
                stroke={isChosen ? 'var(--cool)' : 'var(--ink-3)'}
                strokeWidth={isChosen ? 0.07 : 0.04}
                className="group-focus-visible:[stroke-width:0.14] group-focus-visible:[stroke:var(--cool)]"
              />
              <Label place={place} width={width} isChosen={isChosen} />
            </g>
          );
        })}
        {shown.map((place, i) => (
          <HeardAt
            key={place.tracks[0].id}
            place={place}
            hall={hall}
            listener={listener}
            isChosen={i === chosenAt}
          />
        ))}
        {dragged && (
          <text x={-VIEW.side + 0.4} y={VIEW.front - 0.4} fontSize="0.5" fill="var(--ink)">
            {directionText(azimuthOf(dragged.seat, listener))}, {metresText(metresTo(dragged.seat, listener))}{' '}
            from who listens
          </text>
        )}
      </svg>
      <p className="flex flex-wrap gap-x-4 border-t border-rule-soft px-3 py-1 text-xs text-ink-2">
        <span>Drag a section or use the arrow keys.</span>
        <span>
          <b className="text-warm">◇</b> where it is heard now
        </span>
        <span>
          <b>×</b> where a position was recorded
        </span>
        <span>
          <b className="text-cool">—</b> how near and far it can come
        </span>
        {template && !(template.hall in SHARED_HALLS) && <UnknownWalls hall={hall} />}
      </p>
      {unseated.length > 0 && (
        <p className="border-t border-rule-soft px-3 py-1.5 text-xs text-ink-2">
          Not seated: {unseated.map(({ name }) => name).join(', ')}. Choose a seating above, or seat one:{' '}
          {unseated.slice(0, 8).map((track) => (
            <button
              key={track.id}
              type="button"
              disabled={!mayEdit}
              className="mr-2 min-h-6 text-cool underline"
              onClick={() => {
                choose(track.id);
                void bringTo([{ trackId: track.id, seat: { x: 0, y: 8 } }], `Seat of ${track.name}`);
              }}
            >
              {track.name}
            </button>
          ))}
        </p>
      )}
    </div>
  );
}

/** Of a hall that was taken in only its sound is known. */
function UnknownWalls({ hall }: { hall: HallModel }) {
  const { width, front, depth, height, decaySeconds } = hall;
  return (
    <span className="text-straw">
      This hall’s walls are not known. Distances count it as {width.toFixed(0)} × {(front + depth).toFixed(0)}{' '}
      × {height.toFixed(0)} m with a decay of {decaySeconds.toFixed(1)} s; Size, among the hall’s settings,
      changes that.
    </span>
  );
}

/** Names at a place: of its first track, in two lines where one is too short, and how many more sit there. */
function Label({ place, width, isChosen }: { place: Place; width: number; isChosen: boolean }) {
  const [first, ...others] = place.tracks;
  const lines = inLines(first.name, Math.round(width * SIGNS_PER_METRE));
  if (others.length > 0) lines[lines.length - 1] += ` +${others.length}`;
  const top = -place.y + 0.13 - ((lines.length - 1) * LINE) / 2;
  return (
    <text
      textAnchor="middle"
      fontSize="0.36"
      fontWeight={isChosen ? 600 : 400}
      fill="var(--ink)"
      className="pointer-events-none"
    >
      {lines.map((line, i) => (
        <tspan key={line} x={place.x} y={top + i * LINE}>
          {line}
        </tspan>
      ))}
    </text>
  );
}

/** A name in one line or two, each of no more than so many signs. */
function inLines(name: string, fits: number): string[] {
  const short = (text: string) => (text.length > fits ? `${text.slice(0, fits - 1)}…` : text);
  if (name.length <= fits) return [name];
  const at = name.lastIndexOf(' ');
  return at > 0 ? [short(name.slice(0, at)), short(name.slice(at + 1))] : [short(name)];
}

/** The hall's walls as far as they are in view, its stage, and who listens. */
function Walls({ hall, listener }: { hall: HallModel; listener: number }) {
  const [half, back] = [hall.width / 2, Math.min(hall.depth, VIEW.back - 0.1)];
  const isInView = listener <= VIEW.front - 0.7;
  const y = Math.min(listener, VIEW.front - 0.7);
  return (
    <g aria-hidden>
      <path
        d={`M${-half} ${VIEW.front}V${-back}H${half}V${VIEW.front}`}
        fill="var(--sheet)"
        stroke="var(--ink-3)"
        strokeWidth="0.05"
      />
      {[4, 8, 12].map((metres) => (
        <g key={metres}>
          <path
            d={sectorPath({ x: 0, y: 0 }, metres, metres, metres > 10 ? 58 : 75)}
            fill="none"
            stroke="var(--rule)"
            strokeWidth="0.03"
            strokeDasharray="0.12 0.16"
          />
        </g>
      ))}
      <path d="M-0.32 0.16H0.32" stroke="var(--ink)" strokeWidth="0.08" />
      <text x="0.5" y="0.3" fontSize="0.4" fill="var(--ink-3)">
        conductor
      </text>
      <circle
        cx="0"
        cy={y}
        r="0.2"
        fill={isInView ? 'var(--ink)' : 'none'}
        stroke="var(--ink)"
        strokeWidth="0.05"
      />
      <text x="0.5" y={y + 0.14} fontSize="0.42" fill="var(--ink-2)">
        who listens{isInView ? '' : `, ${metresText(listener)} behind the conductor`}
      </text>
    </g>
  );
}

/** Where a section is heard, and for the chosen one how near and far it can come, and where its positions were recorded. */
function HeardAt({
  place,
  hall,
  listener,
  isChosen,
}: {
  place: Place;
  hall: HallModel;
  listener: number;
  isChosen: boolean;
}) {
  const sections = useBalance((state) => state.sections);
  const section = place.tracks
    .map(({ id }) => sections[id])
    .find((one) => one?.figures?.depthDb !== undefined);
  const figures = section?.figures;
  if (!figures || figures.depthDb === undefined) return null;
  const azimuth = azimuthOfBalance(figures.balanceDb);
  const pointAt = (direction: number, depthDb: number) => {
    const { x, y } = seatAt(direction, Math.min(30, metresAt(depthDb, hall)), listener);
    return { x, y: -y };
  };
  const heard = pointAt(azimuth, figures.depthDb);
  // Where it is heard at its seat, it is told below its name.
  const isThere = Math.hypot(heard.x - place.x, heard.y + place.y) < THERE_METRES;
  const now = isThere ? { x: place.x, y: -place.y + 0.34 } : heard;
  const [near, far] = (figures.reach ?? []).map((depthDb) => pointAt(azimuthOf(place, listener), depthDb));
  return (
    <g className="pointer-events-none">
      {!isThere && (
        <path
          d={`M${place.x} ${-place.y}L${now.x} ${now.y}`}
          stroke="var(--warm)"
          strokeWidth={isChosen ? 0.05 : 0.02}
          strokeDasharray="0.14 0.12"
          opacity={isChosen ? 1 : 0.55}
        />
      )}
      <path
        d={`M${now.x - 0.17} ${now.y}l0.17 -0.17l0.17 0.17l-0.17 0.17Z`}
        fill="var(--sheet)"
        stroke="var(--warm)"
        strokeWidth="0.05"
      />
      {isChosen && near && far && (
        <path
          d={`M${near.x} ${near.y}L${far.x} ${far.y}`}
          stroke="var(--cool)"
          strokeWidth="0.12"
          opacity="0.6"
        />
      )}
      {isChosen &&
        Object.entries(section.positions).map(([id, own]) => {
          if (own.depthDb === undefined) return null;
          const at = pointAt(azimuthOfBalance(own.balanceDb), own.depthDb);
          return (
            <g key={id}>
              <path
                d={`M${at.x - 0.14} ${at.y - 0.14}l0.28 0.28m0 -0.28l-0.28 0.28`}
                stroke="var(--ink)"
                strokeWidth="0.05"
              />
              <text x={at.x + 0.25} y={at.y + 0.13} fontSize="0.36" fill="var(--ink)">
                {positionName(id)}
              </text>
            </g>
          );
        })}
    </g>
  );
}
