import { memo } from 'react';
import { positionName } from '#core/catalogue/index.ts';
import { useDocuments, type Item } from '../../../state/documents.ts';
import { MOVE_RANGE, movesOf, removeMove, replaceMoves, setMove } from '../../../state/level-moves.ts';
import { decibels } from '../../../ui/decibels.ts';
import { CurveLane } from './curve-lane.tsx';

const WORDS = [
  { value: 12, text: '+12' },
  { value: 0, text: '0 dB' },
  { value: -24, text: '−24' },
];

/** The level of one microphone position over the cue, against its level in the mix. */
export const LevelLane = memo(function LevelLane({
  track,
  positionId,
}: {
  track: Item<'track'>;
  positionId: string;
}) {
  const cell = { trackId: track.id, positionId };
  const curve = useDocuments((state) => movesOf(state.records, cell));
  return (
    <CurveLane
      name={`Level of ${positionName(positionId)}`}
      curve={curve}
      low={MOVE_RANGE[0]}
      high={MOVE_RANGE[1]}
      rest={0}
      words={WORDS}
      spoken={(value) => `${decibels(value)} dB against the mix`}
      step={1}
      onDraw={(line) => replaceMoves(cell, line)}
      onSet={(tick, value) => setMove(cell, tick, value)}
      onRemove={(tick) => removeMove(cell, tick)}
    />
  );
});
