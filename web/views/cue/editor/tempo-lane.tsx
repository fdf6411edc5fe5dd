import { memo, useMemo } from 'react';
import { BPM, STANDARD_BPM, type CurvePoint } from '#core/music/index.ts';
import { useList } from '../../../state/documents.ts';
import { drawTempo, removeTempoAt, setTempoAt, tempoLine } from '../../../state/time-edits.ts';
import { CurveLane } from './curve-lane.tsx';

/** Scale of the lane: what most music moves in, and whatever the cue has beyond. */
const [SLOW, FAST] = [40, 180];
const MARGIN = 10;
const NO_CONTROLLER = -1;

/** The tempo over the cue. */
export const TempoLane = memo(function TempoLane() {
  const tempos = useList('tempo');
  const curve = useMemo(
    () =>
      tempoLine(tempos).map(({ tick, bpm }, i): CurvePoint => ({
        id: String(i),
        controller: NO_CONTROLLER,
        tick,
        value: bpm,
      })),
    [tempos],
  );
  const values = curve.map(({ value }) => value);
  const low = Math.max(BPM.low, Math.min(SLOW, ...values.map((value) => value - MARGIN)));
  const high = Math.min(BPM.high, Math.max(FAST, ...values.map((value) => value + MARGIN)));
  return (
    <CurveLane
      name="Tempo"
      curve={curve}
      low={low}
      high={high}
      rest={curve.at(0)?.value ?? STANDARD_BPM}
      words={[160, 120, 80].map((value) => ({ value, text: String(value) }))}
      spoken={(value) => `${Math.round(value * 10) / 10} quarters a minute`}
      step={5}
      onDraw={(line) => drawTempo(line.map(({ tick, value }) => ({ tick, bpm: value })))}
      onSet={(tick, value) => setTempoAt(tick, value)}
      onRemove={removeTempoAt}
    />
  );
});
