import { useEffect, useState } from 'react';
import { TonePane } from '../../app/tone-pane.tsx';
import { positionName } from '#core/catalogue/index.ts';
import { figuresWithout, useBalance } from '../../sound/balance.ts';
import { cellOf, changeCell, type Cell } from '../../state/balance.ts';
import { useNotesAtOnce, usePositionBytes } from '../../sound/price.ts';
import { beginGesture, endGesture, useDocuments, type Item } from '../../state/documents.ts';
import { clearMoves, movesOf } from '../../state/level-moves.ts';
import { isCellAlone, toggleCellAlone, useOwnHearing } from '../../state/own-hearing.ts';
import { Button } from '../../ui/button.tsx';
import { decibels } from '../../ui/decibels.ts';
import { megabytes } from '../../ui/megabytes.ts';
import { GroupTitle } from '../../ui/heading.tsx';
import { Ruler } from '../../ui/ruler.tsx';
import { signed } from './figures.ts';
import { StemField } from './stem-field.tsx';

const SETTINGS = [
  {
    field: 'pan',
    label: 'Pan',
    scale: 100,
    low: -100,
    high: 100,
    rest: 0,
    step: 10,
    format: (v: number) =>
      Math.round(v) === 0 ? 'middle' : `${Math.abs(Math.round(v))} ${v < 0 ? 'L' : 'R'}`,
    help: 'Balance of left and right, constant power. Costs nothing.',
  },
  {
    field: 'width',
    label: 'Width',
    scale: 100,
    low: 0,
    high: 200,
    rest: 100,
    step: 10,
    unit: '%',
    help: '0 % is mono, 100 % as recorded. Costs nothing.',
  },
  {
    field: 'delayMs',
    label: 'Delay',
    scale: 1,
    low: 0,
    high: 100,
    rest: 0,
    step: 1,
    unit: 'ms',
    format: (v: number) => v.toFixed(2),
    help: 'Lets these microphones arrive later, between frames too; planned leads take it into account.',
  },
  {
    field: 'sendDb',
    label: 'To the hall',
    scale: 1,
    low: -60,
    high: 12,
    rest: 0,
    step: 1,
    unit: 'dB',
    format: decibels,
    help: 'What of this position goes to the hall, against the send of its section.',
  },
] as const;

/** One position of one section: everything but its level. */
export function CellPane({
  track,
  positionId,
  mayEdit,
}: {
  track: Item<'track'>;
  positionId: string;
  mayEdit: boolean;
}) {
  const cell = { trackId: track.id, positionId };
  const mix = useDocuments((state) => cellOf(state.records, cell));
  const isAlone = useOwnHearing((state) => isCellAlone(state, track.id, positionId));
  if (!mix) return null;
  const name = positionName(positionId);
  return (
    <>
      <GroupTitle>{name}</GroupTitle>
      <div className="flex gap-1.5">
        <Button
          pressed={mix.muted}
          disabled={!mayEdit}
          onClick={() => changeCell(cell, `Mute ${name}`, { muted: !mix.muted })}
        >
          Muted
        </Button>
        <Button
          pressed={mix.inverted}
          disabled={!mayEdit}
          title="Turns its waves over"
          onClick={() => changeCell(cell, `Polarity of ${name}`, { inverted: !mix.inverted })}
        >
          Polarity
        </Button>
        <Button
          pressed={isAlone}
          title="Hears these microphones of this section alone. Nobody else hears it."
          onClick={() => toggleCellAlone(track.id, positionId)}
        >
          Alone
        </Button>
      </div>
      {SETTINGS.map(({ field, scale, ...ruler }) => (
        <Ruler
          key={field}
          compact
          {...ruler}
          value={mix[field] * scale}
          disabled={!mayEdit}
          onChange={(v) =>
            changeCell(cell, `${ruler.label} of ${name}`, { [field]: v / scale }, `${field} ${mix.id}`)
          }
          onGesture={(phase) =>
            phase === 'begin' ? beginGesture(`${ruler.label} of ${name}`) : endGesture()
          }
        />
      ))}
      <StemField
        stem={mix.stem}
        disabled={!mayEdit}
        onCommit={(stem) => changeCell(cell, `Stem of ${name}`, { stem })}
      />
      <Moves cell={cell} mayEdit={mayEdit} />
      <TonePane track={track} positionId={positionId} mayEdit={mayEdit} />
      <Cost track={track} positionId={positionId} isOff={mix.levelDb <= -60} />
      <WithoutIt track={track} positionId={positionId} />
    </>
  );
}

/** How its level moves in the open cue. */
function Moves({ cell, mayEdit }: { cell: Cell; mayEdit: boolean }) {
  const curve = useDocuments((state) => movesOf(state.records, cell));
  if (curve.length === 0)
    return (
      <p className="mt-2 text-xs text-ink-3">
        Its level rests in this cue. Draw it in Cue (“lane …” beside the curves), or press “Record moves” and
        ride its ruler while it plays.
      </p>
    );
  const values = curve.map(({ value }) => value);
  return (
    <p className="mt-2 text-xs text-ink-2">
      Its level moves in this cue: {curve.length} {curve.length === 1 ? 'point' : 'points'},{' '}
      {signed(Math.min(...values))} to {signed(Math.max(...values))} dB against the mix.{' '}
      <button
        type="button"
        disabled={!mayEdit}
        className="min-h-6 text-cool underline"
        onClick={() => clearMoves(cell)}
      >
        Let it rest
      </button>
    </p>
  );
}

/** What the cell takes of memory and voices. */
function Cost({ track, positionId, isOff }: { track: Item<'track'>; positionId: string; isOff: boolean }) {
  const bytes = usePositionBytes(track.instrumentId, positionId);
  const notes = useNotesAtOnce(track.id);
  if (bytes === undefined) return null;
  return (
    <p className="mt-3 text-xs text-ink-2">
      {isOff
        ? `Off: nothing of it is loaded. It would take ${megabytes(bytes)}.`
        : `Takes ${megabytes(bytes)} for what is loaded, and is read by up to ${notes} ${notes === 1 ? 'note' : 'notes'} at once in the passage.`}
    </p>
  );
}

/** What leaving a position out would change. */
function WithoutIt({ track, positionId }: { track: Item<'track'>; positionId: string }) {
  const figures = useBalance((state) => state.sections[track.id]?.figures);
  const [without, setWithout] = useState<{ loudness: number; depthDb: number | undefined }>();
  useEffect(() => {
    let isOver = false;
    if (figures)
      void figuresWithout(track.id, positionId).then((found) => {
        if (!isOver) setWithout(found);
      });
    return () => {
      isOver = true;
    };
  }, [figures, track.id, positionId]);
  if (!figures || !without) return null;
  if (!Number.isFinite(without.loudness))
    return <p className="mt-3 text-xs text-ink-2">Without it nothing of the section is left.</p>;
  return (
    <p className="mt-3 text-xs text-ink-2">
      Without it: {signed(without.loudness - figures.loudness)} LU
      {without.depthDb !== undefined && figures.depthDb !== undefined
        ? `, depth ${signed(without.depthDb - figures.depthDb)} dB`
        : ''}
      .
    </p>
  );
}
