import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { GripVertical, TriangleAlert } from 'lucide-react';
import {
  describeTrigger,
  sourcesOf,
  triggerSets,
  type Clash,
  type Entry,
  type Source,
  type Voicing,
} from '#core/keymap/index.ts';
import type { MiddleC } from '#core/music/index.ts';
import { selectArticulation } from '../../sound/hands.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { useDocuments } from '../../state/documents.ts';
import { useVocabulary, voicingOf } from '../../state/keymaps.ts';
import { change, orderEdits } from './keymap-edits.ts';
import { choose, useKeymaps } from './keymaps-state.ts';
import type { KeymapShown } from './looked-at.ts';

const GRID =
  'grid grid-cols-[24px_34px_minmax(110px,1.2fr)_minmax(110px,1.4fr)_minmax(120px,1.6fr)_20px] items-center gap-x-2';

/** The articulations of a keymap in their order: what selects each, and what then sounds. */
export function EntryTable({ house, instrument, clashes, middleC, mayEdit }: KeymapShown) {
  const records = useDocuments((state) => state.records);
  const voicing = voicingOf(records, house.keymap, instrument);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const { entries } = house.keymap;
  const drop = ({ active, over }: DragEndEvent) => {
    const from = entries.findIndex(({ id }) => id === active.id);
    const to = entries.findIndex(({ id }) => id === over?.id);
    if (from >= 0 && to >= 0 && from !== to) change('Reorder the keymap', house, orderEdits(house, from, to));
  };
  return (
    <div role="table" aria-label="Articulations of the keymap" className="min-w-[460px]">
      <div role="row" className={`${GRID} border-b border-rule px-3 py-1 text-xs text-ink-3`}>
        <span role="columnheader">
          <span className="sr-only">Order</span>
        </span>
        <span role="columnheader">
          <span className="sr-only">Tab</span>
        </span>
        <span role="columnheader">articulation</span>
        <span role="columnheader">selected by</span>
        <span role="columnheader">what sounds</span>
        <span role="columnheader">
          <span className="sr-only">Clashes</span>
        </span>
      </div>
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={drop}
        // What is told of a drag stands outside the table, which may hold rows only.
        accessibility={{ container: document.body }}
      >
        <SortableContext items={entries.map(({ id }) => id)} strategy={verticalListSortingStrategy}>
          {entries.map((entry) => (
            <EntryRow
              key={entry.id}
              entry={entry}
              isFirst={entry.articulation === house.keymap.initial}
              voicing={voicing}
              clashes={clashes.filter(({ entryId }) => entryId === entry.id)}
              middleC={middleC}
              mayEdit={mayEdit}
            />
          ))}
        </SortableContext>
      </DndContext>
    </div>
  );
}

function EntryRow({
  entry,
  isFirst,
  voicing,
  clashes,
  middleC,
  mayEdit,
}: {
  entry: Entry;
  isFirst: boolean;
  voicing: Voicing;
  clashes: readonly Clash[];
  middleC: MiddleC;
  mayEdit: boolean;
}) {
  const vocabulary = useVocabulary();
  const chosen = useKeymaps((state) => state.entryId === entry.id);
  const sounding = usePerformance((state) => state.articulation === entry.articulation);
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({
    id: entry.id,
    disabled: !mayEdit,
  });
  const term = vocabulary.term(entry.articulation);
  const select = () => {
    choose(entry.id);
    selectArticulation(entry.articulation);
  };
  return (
    <div
      ref={setNodeRef}
      role="row"
      aria-selected={chosen}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`${GRID} min-h-[30px] cursor-pointer border-b border-rule-soft px-3 ${chosen ? 'bg-cool-tint' : 'hover:bg-ground'}`}
      onClick={select}
    >
      <span role="cell">
        <button
          type="button"
          {...attributes}
          {...listeners}
          role="button"
          aria-label={`Move ${term.name} within the order`}
          disabled={!mayEdit}
          className="grid size-6 cursor-grab place-items-center text-ink-3 disabled:opacity-40"
          onClick={(event) => event.stopPropagation()}
        >
          <GripVertical size={14} aria-hidden />
        </button>
      </span>
      <span role="cell">
        <span
          className={`block w-7 rounded-sm border text-center text-xs leading-5 font-semibold ${sounding ? 'border-ink bg-ink text-sheet' : 'border-rule'}`}
        >
          {term.tab}
        </span>
      </span>
      <span role="cell" className="min-w-0">
        <button
          type="button"
          className="block min-h-6 w-full truncate text-left"
          title="Choose it, and play with it"
          onClick={(event) => {
            event.stopPropagation();
            select();
          }}
        >
          {term.name}
          {isFirst && <span className="text-xs text-ink-3"> · from the beginning</span>}
        </button>
      </span>
      <span role="cell" className="truncate">
        <Selected entry={entry} middleC={middleC} />
      </span>
      <span role="cell" className="truncate text-ink-2">
        <Sounds entry={entry} voicing={voicing} />
      </span>
      <span role="cell">
        {clashes.length > 0 && (
          <TriangleAlert
            size={15}
            className={
              clashes.some(({ kind }) => kind !== 'differs' && kind !== 'stands in')
                ? 'text-warm'
                : 'text-straw'
            }
            aria-label={clashes.map(({ sentence }) => sentence).join(' ')}
            role="img"
          />
        )}
      </span>
    </div>
  );
}

/** What selects an entry, in words. */
function Selected({ entry, middleC }: { entry: Entry; middleC: MiddleC }) {
  const sets = triggerSets(entry);
  if (sets.length === 0) return <span className="text-ink-3">marks only</span>;
  const words = sets.map((set) => set.map((one) => describeTrigger(one, middleC)).join(' + '));
  return (
    <>
      <span className="font-semibold">{words[0]}</span>
      {words.length > 1 && (
        <span className="text-ink-2" title={words.join(' or ')}>
          {' '}
          or {words.slice(1).join(' or ')}
        </span>
      )}
    </>
  );
}

/** What sounds for an entry, with what stands in. */
function Sounds({ entry, voicing }: { entry: Entry; voicing: Voicing }) {
  const vocabulary = useVocabulary();
  const parts = sourcesOf(entry).map((source) => {
    const found = voicing.repertoire.find(source.articulation);
    const name = vocabulary.term(source.articulation).name;
    if (!found || found.distance === 'other') return { text: `✕ ${name} is missing`, tone: 'text-warm' };
    if (found.distance === 'own')
      return {
        text: entry.sources.length === 0 ? '● own' : `● ${name}${about(source, entry)}`,
        tone: '',
      };
    const standIn = vocabulary.term(found.term).name;
    return {
      text: `≈ ${entry.sources.length === 0 ? '' : `${name}: `}${standIn} stands in, ${found.distance}`,
      tone: 'text-straw',
    };
  });
  return (
    <span title={parts.map(({ text }) => text).join(entry.morph === undefined ? ', ' : ' → ')}>
      {parts.map(({ text, tone }, i) => (
        <span key={i} className={tone}>
          {i > 0 && (entry.morph === undefined ? ', ' : ' → ')}
          {text}
        </span>
      ))}
      {entry.morph !== undefined && <span> by controller {entry.morph}</span>}
    </span>
  );
}

function about({ velocityLow, velocityHigh, levelDb, part }: Source, entry: Entry): string {
  const words = [
    ...(velocityLow > 1 || velocityHigh < 127 ? [`velocity ${velocityLow} to ${velocityHigh}`] : []),
    ...(levelDb === 0 ? [] : [`${levelDb > 0 ? '+' : '−'}${Math.abs(levelDb)} dB`]),
    ...(part === 'whole' ? [] : [part]),
  ];
  return words.length > 0 && entry.morph === undefined ? ` (${words.join(', ')})` : '';
}
