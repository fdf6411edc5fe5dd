import { beginGesture, edit, endGesture, type Item } from '../state/documents.ts';
import { decibels } from '../ui/decibels.ts';
import { Ruler } from '../ui/ruler.tsx';

const RULERS = [
  {
    field: 'gainDb',
    label: 'Level',
    rest: 0,
    step: 'Track level',
    help: 'Level of the whole track, after its positions. Costs nothing.',
  },
  {
    field: 'hallSendDb',
    label: 'Hall',
    rest: -14,
    step: 'Hall send',
    help: 'How much of the track sounds in the shared hall. The hall is computed once for all tracks.',
  },
] as const;

/** Level of a track and what of it goes to the hall. */
export function TrackRulers({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  return RULERS.map(({ field, label, rest, step, help }) => (
    <Ruler
      key={field}
      label={label}
      value={track[field]}
      low={-60}
      high={12}
      rest={rest}
      step={1}
      unit="dB"
      format={decibels}
      disabled={!mayEdit}
      help={help}
      onChange={(value) =>
        edit(
          step,
          [{ kind: 'track', id: track.id, op: 'update', fields: { [field]: value } }],
          `${field} ${track.id}`,
        )
      }
      onGesture={(phase) => (phase === 'begin' ? beginGesture(step) : endGesture())}
    />
  ));
}
