import { memo, useMemo } from 'react';
import { parameterOfController } from '#core/keymap/index.ts';
import { controllerRest, curveOf } from '#core/music/index.ts';
import { partOf } from '../../../state/cue.ts';
import { usePerformance } from '../../../sound/performance-state.ts';
import { useDocuments, type Item } from '../../../state/documents.ts';
import { CurveLane } from './curve-lane.tsx';
import { removePoint, replacePoints, setPoint } from './part-edits.ts';

/** One controller of a part as a curve over time. */
export const ControllerLane = memo(function ControllerLane({
  track,
  controller,
  name,
  words,
}: {
  track: Item<'track'>;
  controller: number;
  name: string;
  words: readonly { value: number; text: string }[];
}) {
  const points = useDocuments((state) => partOf(state.records, track.id).part.points);
  const curve = useMemo(() => curveOf(points, controller), [points, controller]);
  const responses = usePerformance((state) => state.plans[track.id]?.context.responses);
  const parameter = parameterOfController(controller);
  // Before its first point it rests where the track's keymap has it.
  const rest =
    responses && parameter !== undefined ? responses.ride(parameter).rest : controllerRest(controller);
  return (
    <CurveLane
      name={name}
      curve={curve}
      low={0}
      high={127}
      rest={rest}
      words={words}
      spoken={(value) => `${Math.round(value)} of 127`}
      step={5}
      onDraw={(line) => replacePoints(track.id, controller, line)}
      onSet={(tick, value) => setPoint(track.id, controller, tick, value)}
      onRemove={(tick) => removePoint(track.id, controller, tick)}
    />
  );
});
