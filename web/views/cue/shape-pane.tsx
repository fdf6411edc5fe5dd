import { memo } from 'react';
import { toast } from 'sonner';
import { pitchName, SCALE_NAMES, type ScaleName } from '#core/music/index.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { Ruler } from '../../ui/ruler.tsx';
import { useEditor } from './editor/editor-state.ts';
import { moveBySteps, selectedNotes } from './editor/part-edits.ts';
import { SHAPES, shapeSelected, useQuantising } from './editor/shape-edits.ts';

const percent = (value: number) => String(Math.round(value));

/** What can be done with the selected notes as a whole. */
export const ShapePane = memo(function ShapePane({ mayEdit }: { mayEdit: boolean }) {
  const { strength, swing, ends } = useQuantising();
  return (
    <>
      <div className="mt-1 flex flex-wrap gap-1">
        {SHAPES.map((shape) => (
          <Button
            key={shape.key}
            className="py-0.5"
            disabled={!mayEdit}
            title={`Key ${shape.key}`}
            onClick={() => {
              if (!shapeSelected(shape)) toast(`${shape.name}: these notes stand so already.`);
            }}
          >
            {shape.name}
          </Button>
        ))}
      </div>
      <ScaleSteps mayEdit={mayEdit} />
      <details className="text-sm">
        <summary className="min-h-6 cursor-pointer pt-1 text-ink-2">How notes are drawn to the grid</summary>
        <Ruler
          compact
          label="Strength"
          value={100 * strength}
          low={0}
          high={100}
          rest={100}
          step={5}
          unit="%"
          format={percent}
          disabled={!mayEdit}
          help="How far notes go to the nearest line of the grid; 100 % is all the way."
          onChange={(value) => useQuantising.setState({ strength: value / 100 })}
        />
        <Ruler
          compact
          label="Swing"
          value={100 * swing}
          low={50}
          high={75}
          rest={50}
          step={1}
          unit="%"
          format={percent}
          disabled={!mayEdit}
          help="Where every second line stands between its neighbours: 50 % is in the middle, 67 % as in triplets."
          onChange={(value) => useQuantising.setState({ swing: value / 100 })}
        />
        <label className="flex min-h-6 items-center gap-1.5 text-xs">
          <input
            type="checkbox"
            checked={ends}
            disabled={!mayEdit}
            onChange={(event) => useQuantising.setState({ ends: event.target.checked })}
          />
          their ends as well
        </label>
      </details>
    </>
  );
});

const ROOTS = Array.from({ length: 12 }, (_, root) => ({
  value: String(root),
  text: pitchName(root).replace(/-?\d+$/, ''),
}));

/** The scale whose keys are light in the pitch grid, and by whose steps the selected notes go up and down. */
function ScaleSteps({ mayEdit }: { mayEdit: boolean }) {
  const scale = useEditor((state) => state.scale);
  const move = (steps: number) => {
    if (!moveBySteps(selectedNotes(), steps)) toast('That would leave the keyboard.');
  };
  return (
    <div className="mt-1 flex items-center gap-1 text-sm">
      <Choice
        label="Root of the scale"
        hideLabel
        value={String(scale.root)}
        options={ROOTS}
        onChange={(event) => useEditor.setState({ scale: { ...scale, root: Number(event.target.value) } })}
      />
      <Choice
        label="Kind of scale"
        hideLabel
        className="w-[88px]"
        value={scale.name}
        options={SCALE_NAMES.map((value) => ({ value, text: value }))}
        onChange={(event) =>
          useEditor.setState({ scale: { ...scale, name: event.target.value as ScaleName } })
        }
      />
      <span className="flex-1" />
      <Button
        className="py-0.5"
        disabled={!mayEdit}
        aria-label="A step of the scale down"
        title="Alt ↓ on the notes"
        onClick={() => move(-1)}
      >
        −1
      </Button>
      <Button
        className="py-0.5"
        disabled={!mayEdit}
        aria-label="A step of the scale up"
        title="Alt ↑ on the notes"
        onClick={() => move(1)}
      >
        +1
      </Button>
    </div>
  );
}
