import { memo, useState } from 'react';
import { toast } from 'sonner';
import {
  CONTROLLER,
  CURVE_SHAPES,
  dynamicsName,
  scaledCurve,
  shapedCurve,
  shiftedCurve,
  thinnedCurve,
  type CurvePoint,
  type CurveShape,
  type CurveSpan,
} from '#core/music/index.ts';
import { TICKS_PER_QUARTER } from '#core/units/index.ts';
import { readDynamics } from '../../app/dynamics-name.ts';
import type { Item } from '../../state/documents.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { controllerPercent, numberWithin } from '../../ui/numbers.ts';
import { Typed } from '../../ui/typed.tsx';
import { changeCurve, replacePoints, selectedNotes } from './editor/part-edits.ts';

const SHAPE_NAMES: Record<CurveShape, string> = {
  straight: 'straight',
  late: 'most of it late',
  early: 'most of it early',
  arch: 'there and back',
};
/** A dynamic and the controller’s value are told together, since a name spans many values. */
const dynamics = (value: number) => `${dynamicsName(value)} ${Math.round(value)}`;
const percent = (value: number) => `${Math.round((value / 127) * 100)} %`;
const CURVES = {
  dynamics: {
    name: 'Dynamics',
    controller: CONTROLLER.dynamics,
    write: dynamics,
    read: (text: string) => readDynamics(text.replace(/^\s*[a-z]+\s+(?=\d)/i, '')),
  },
  vibrato: { name: 'Vibrato', controller: CONTROLLER.vibrato, write: percent, read: controllerPercent },
};
type Curve = keyof typeof CURVES;

/** A curve drawn over the selected notes, from where the first begins to where the last ends. */
export const CurvePane = memo(function CurvePane({
  track,
  mayEdit,
}: {
  track: Item<'track'>;
  mayEdit: boolean;
}) {
  const [curve, setCurve] = useState<Curve>('dynamics');
  const [shape, setShape] = useState<CurveShape>('straight');
  const [from, setFrom] = useState(32);
  const [to, setTo] = useState(95);
  const { controller, write, read } = CURVES[curve];
  const draw = () => {
    const { fromTick, toTick } = selectedSpan();
    replacePoints(track.id, controller, shapedCurve(shape, from, to, fromTick, toTick));
  };
  return (
    <details className="text-sm">
      <summary className="min-h-6 cursor-pointer pt-1 text-ink-2">A curve over these notes</summary>
      <div className="grid grid-cols-2 gap-x-2 gap-y-1 text-xs">
        <Choice
          label="Curve"
          hideLabel
          value={curve}
          disabled={!mayEdit}
          onChange={(event) => setCurve(event.target.value as Curve)}
          options={Object.entries(CURVES).map(([value, { name }]) => ({ value, text: name }))}
        />
        <Choice
          label="Shape of the curve"
          hideLabel
          value={shape}
          disabled={!mayEdit}
          onChange={(event) => setShape(event.target.value as CurveShape)}
          options={CURVE_SHAPES.map((value) => ({ value, text: SHAPE_NAMES[value] }))}
        />
        <label>
          from{' '}
          <Typed
            label="Curve from"
            value={write(from)}
            disabled={!mayEdit}
            width="w-16"
            parse={read}
            onCommit={setFrom}
          />
        </label>
        <label>
          to{' '}
          <Typed
            label="Curve to"
            value={write(to)}
            disabled={!mayEdit}
            width="w-16"
            parse={read}
            onCommit={setTo}
          />
        </label>
      </div>
      <Button className="mt-1 py-0.5" disabled={!mayEdit} onClick={draw}>
        Draw it
      </Button>
      <CurveChanges
        name={CURVES[curve].name}
        disabled={!mayEdit}
        change={(label, points) =>
          changeCurve(track.id, controller, label, (line) => points(line, selectedSpan()))
        }
      />
    </details>
  );
});

/** From where the first of the selected notes begins to where the last one ends. */
function selectedSpan(): CurveSpan {
  const notes = selectedNotes();
  return {
    fromTick: notes.reduce((least, { startTick }) => Math.min(least, startTick), Infinity),
    toTick: notes.reduce((most, { endTick }) => Math.max(most, endTick), 0),
  };
}

type Points = (curve: readonly CurvePoint[], span: CurveSpan) => readonly { tick: number; value: number }[];

/** Thinned points stay within so many controller steps. */
const THIN = 1;

/** What is drawn over the selected notes, made larger or smaller, raised or lowered, told with fewer points, or moved in time. */
function CurveChanges({
  name,
  disabled,
  change,
}: {
  name: string;
  disabled: boolean;
  change: (label: string, points: Points) => boolean;
}) {
  const [scale, setScale] = useState(100);
  const [add, setAdd] = useState(0);
  const [later, setLater] = useState(0.25);
  const run = (label: string, points: Points) => {
    if (!change(label, points)) toast(`${name} has no curve there yet: it rests.`);
  };
  return (
    <div className="mt-2 text-xs">
      <p className="text-ink-3">What is there already:</p>
      <div className="flex flex-wrap items-start gap-1">
        <label>
          to{' '}
          <Typed
            label="Scale of the curve, percent"
            value={`${scale} %`}
            disabled={disabled}
            width="w-14"
            parse={numberWithin(0, 400, '%')}
            onCommit={setScale}
          />
        </label>
        <label>
          and by{' '}
          <Typed
            label="Steps by which the curve is raised"
            value={`${add < 0 ? '−' : '+'}${Math.abs(add)}`}
            disabled={disabled}
            width="w-12"
            parse={numberWithin(-127, 127)}
            onCommit={setAdd}
          />
        </label>
        <Button
          className="py-0.5"
          disabled={disabled}
          title="Makes its way from its mean larger or smaller, and raises or lowers it, over the selected notes."
          onClick={() =>
            run('Scale the curve', (curve, span) => scaledCurve(curve, span, { scale: scale / 100, add }))
          }
        >
          Scale it
        </Button>
        <Button
          className="py-0.5"
          disabled={disabled}
          title="Leaves out points that change nothing one can hear: it stays within a step of 127."
          onClick={() => run('Thin the curve', (curve, span) => thinnedCurve(curve, span, THIN))}
        >
          Thin it
        </Button>
      </div>
      <div className="mt-1 flex flex-wrap items-start gap-1">
        <label>
          later by{' '}
          <Typed
            label="Quarters by which the curve comes later"
            value={`${later < 0 ? '−' : ''}${Math.abs(later)}`}
            disabled={disabled}
            width="w-14"
            parse={numberWithin(-64, 64)}
            onCommit={setLater}
          />{' '}
          quarters
        </label>
        <Button
          className="py-0.5"
          disabled={disabled}
          title="Moves what the curve does over the selected notes, over what is there; earlier below 0."
          onClick={() =>
            run('Shift the curve', (curve, span) =>
              shiftedCurve(curve, span, Math.round(later * TICKS_PER_QUARTER)),
            )
          }
        >
          Shift it
        </Button>
      </div>
    </div>
  );
}
