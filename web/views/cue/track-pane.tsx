import { useInstruments } from '../../sound/instruments.ts';
import { edit, type Item } from '../../state/documents.ts';
import { useMayEdit } from '../../state/session.ts';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle } from '../../ui/heading.tsx';
import { FamilyTag } from '../../ui/tag.tsx';
import { KeymapList } from './keymap-list.tsx';
import { InstrumentChoice } from './instrument-choice.tsx';
import { SelectionPane } from './selection-pane.tsx';
import { TrackRulers } from '../../app/track-rulers.tsx';
import { PositionsPane } from './positions-pane.tsx';
import { PlannedPane } from './planned-pane.tsx';
import { HallPane } from '../../app/hall-pane.tsx';
import { TonePane } from '../../app/tone-pane.tsx';

/** Everything about one track: instrument, positions, hall, connected playing, keymap, findings. */
export function TrackPane({ track }: { track: Item<'track'> }) {
  const mayEdit = useMayEdit();
  const load = useInstruments((state) => (track.instrumentId ? state.loads[track.instrumentId] : undefined));
  const change = (label: string, fields: Record<string, unknown>, merge?: string) =>
    edit(label, [{ kind: 'track', id: track.id, op: 'update', fields }], merge);
  return (
    <>
      <div className="flex items-center gap-2">
        <FamilyTag family={track.family} />
        <input
          aria-label="Name of the track"
          className="w-full min-w-0 rounded-sm border border-transparent bg-transparent font-serif text-xl font-semibold hover:border-rule focus:border-rule focus:bg-raised"
          value={track.name}
          maxLength={120}
          disabled={!mayEdit}
          onChange={(event) =>
            event.target.value.trim() !== '' &&
            change('Rename the track', { name: event.target.value }, 'name')
          }
        />
      </div>
      <InstrumentChoice track={track} mayEdit={mayEdit} />
      <SelectionPane track={track} mayEdit={mayEdit} />
      {load && <PositionsPane track={track} instrument={load.instrument} mayEdit={mayEdit} />}
      <GroupTitle>Track</GroupTitle>
      <TrackRulers track={track} mayEdit={mayEdit} />
      <div className="mt-1">
        <Choice
          label="Connected"
          value={track.mode}
          disabled={!mayEdit}
          title="Planned: moves begin early, so that the new pitch lands on its beat. Natural: moves begin on the beat. Immediate: only the end of a move is heard, on the beat."
          onChange={(event) => change('Connected playing', { mode: event.target.value })}
          options={[
            { value: 'planned', text: 'planned' },
            { value: 'natural', text: 'natural' },
            { value: 'immediate', text: 'immediate' },
          ]}
        />
      </div>
      <TonePane track={track} mayEdit={mayEdit} />
      <KeymapList track={track} />
      <PlannedPane track={track} />
      <HallPane mayEdit={mayEdit} />
    </>
  );
}
