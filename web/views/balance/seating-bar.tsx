import { LISTENER_METRES, SEATINGS, type Seating } from '#core/mixing/index.ts';
import { bringTo, useSeating } from '../../sound/seating.ts';
import { edit, useDocuments, useItem, useList } from '../../state/documents.ts';
import {
  conventionalMoves,
  keepSeating,
  keptMoves,
  placesOf,
  seatTracks,
  standAt,
} from '../../state/seating.ts';
import { askName, confirmLoss } from '../../ui/ask.tsx';
import { Button } from '../../ui/button.tsx';
import { Menu } from '../../ui/menu.tsx';
import { numberWithin } from '../../ui/numbers.ts';
import { Typed } from '../../ui/typed.tsx';

/** Seatings to begin with, who listens, and what bringing a section to its seat may use. */
export function SeatingBar({ mayEdit }: { mayEdit: boolean }) {
  const { late, hall, working } = useSeating();
  const template = useItem(
    'template',
    useDocuments((state) => state.templateId),
  );
  const bringAll = () => {
    const { records } = useDocuments.getState();
    void bringTo(
      placesOf(records).flatMap(({ x, y, tracks }) =>
        tracks.map(({ id }) => ({ trackId: id, seat: { x, y } })),
      ),
      'Bring all to their seats',
    );
  };
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule-soft px-3 py-1.5 text-xs text-ink-2">
      <Seatings mayEdit={mayEdit} />
      <label className="flex items-center gap-1">
        Who listens stands
        <Typed
          label="Metres behind the conductor"
          value={(template?.listenerMetres ?? 0).toFixed(1)}
          disabled={!mayEdit}
          width="w-12"
          parse={numberWithin(...LISTENER_METRES, 'm')}
          onCommit={standAt}
        />
        m behind the conductor
      </label>
      <label
        className="flex min-h-6 items-center gap-1"
        title="Sections wait as long as their sound takes from their seats."
      >
        <input
          type="checkbox"
          checked={late}
          onChange={(event) => useSeating.setState({ late: event.target.checked })}
        />{' '}
        later from the back
      </label>
      <label
        className="flex min-h-6 items-center gap-1"
        title="Where its positions are not far enough, a section is sent to the hall."
      >
        <input
          type="checkbox"
          checked={hall}
          onChange={(event) => useSeating.setState({ hall: event.target.checked })}
        />{' '}
        further by the hall
      </label>
      <div className="flex-1" />
      <Button
        disabled={!mayEdit || working > 0}
        title="Sets levels, balances and delays of all seated sections so that they are heard from their seats, each as loud as now. One step back undoes it."
        onClick={bringAll}
      >
        {working > 0 ? 'Brings …' : 'Bring all to their seats'}
      </Button>
    </div>
  );
}

function Seatings({ mayEdit }: { mayEdit: boolean }) {
  const kept = useList('keptSeating');
  const records = () => useDocuments.getState().records;
  const keep = async () => {
    const name = await askName(
      'Keep this seating',
      'Under this name it is there for every template of the studio.',
      'Keep',
    );
    if (name) keepSeating(name);
  };
  return (
    <Menu
      label="Seatings"
      trigger={<span className="px-1 text-sm">Seatings</span>}
      className="border border-rule bg-raised"
      groups={[
        (Object.keys(SEATINGS) as Seating[]).map((seating) => ({
          text: SEATINGS[seating],
          disabled: !mayEdit,
          onSelect: () => seatTracks(conventionalMoves(records(), seating), `Seat: ${SEATINGS[seating]}`),
        })),
        kept.map(({ name, seats }) => ({
          text: name,
          disabled: !mayEdit,
          onSelect: () => seatTracks(keptMoves(records(), seats), `Seat: ${name}`),
        })),
        [{ text: 'Keep this seating …', disabled: !mayEdit, onSelect: () => void keep() }],
        kept.map(({ id, name }) => ({
          text: `Forget “${name}” …`,
          loss: true,
          disabled: !mayEdit,
          onSelect: () =>
            void confirmLoss(
              'Forget this seating',
              `“${name}” is forgotten in the whole studio.`,
              'Forget',
            ).then((sure) => sure && edit('Forget a seating', [{ kind: 'keptSeating', id, op: 'remove' }])),
        })),
      ]}
    />
  );
}
