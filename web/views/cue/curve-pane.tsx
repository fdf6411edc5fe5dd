import { useState } from 'react';
import { CONTROLLER, CURVE_SHAPES, shapedCurve, type CurveShape } from '#core/music/index.ts';
import { dynamicsName, readDynamics } from '../../app/dynamics-name.ts';
import type { Item } from '../../state/documents.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { controllerPercent } from '../../ui/numbers.ts';
import { Typed } from '../../ui/typed.tsx';
import { replacePoints } from './editor/part-edits.ts';

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
export function CurvePane({
  track,
  notes,
  mayEdit,
}: {
  track: Item<'track'>;
  notes: readonly Item<'note'>[];
  mayEdit: boolean;
}) {
  const [curve, setCurve] = useState<Curve>('dynamics');
  const [shape, setShape] = useState<CurveShape>('straight');
  const [from, setFrom] = useState(32);
  const [to, setTo] = useState(95);
  const { controller, write, read } = CURVES[curve];
  const draw = () => {
    const start = notes.reduce((least, { startTick }) => Math.min(least, startTick), Infinity);
    const end = notes.reduce((most, { endTick }) => Math.max(most, endTick), 0);
    replacePoints(track.id, controller, shapedCurve(shape, from, to, start, end));
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
    </details>
  );
}
