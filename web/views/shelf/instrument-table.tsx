import { useEffect, useMemo, useRef, type KeyboardEvent } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { ArrowDown, ArrowUp, Star } from 'lucide-react';
import { FAMILIES, groupShelf, type ShelfEntry, type ShelfOrder } from '#core/catalogue/index.ts';
import { useInstruments } from '../../sound/instruments.ts';
import { useLibraries } from '../../state/libraries.ts';
import { megabytes } from '../../ui/megabytes.ts';
import { RangeBar } from '../../ui/range-bar.tsx';
import { FamilyTag } from '../../ui/tag.tsx';
import { orderBy, pricePerGb, selectInstrument, useShelf } from './shelf-state.ts';

/** Where there is room, the room of a recording and its price stand beside the rest, and ranges are drawn larger. */
const COLUMNS =
  'grid-cols-[38px_minmax(180px,1fr)_46px_118px_46px_34px_68px_76px] @4xl:grid-cols-[38px_minmax(200px,1fr)_minmax(150px,0.6fr)_56px_minmax(118px,0.8fr)_56px_44px_78px_96px_96px]';
const WIDE = 'hidden @4xl:block';
const ROW_HEIGHT = 27;
const GROUP_HEIGHT = 38;

type Line = { kind: 'group'; name: string; count: number } | { kind: 'entry'; entry: ShelfEntry };

const HEADS: readonly { order: ShelfOrder; text: string; right?: boolean; wide?: boolean }[] = [
  { order: 'name', text: 'Instrument' },
  { order: 'room', text: 'Room', wide: true },
  { order: 'players', text: 'Players', right: true },
  { order: 'range', text: 'Range' },
  { order: 'techniques', text: 'Techn.', right: true },
  { order: 'positions', text: 'Pos.', right: true },
  { order: 'memory', text: 'Memory', right: true },
  { order: 'price', text: 'Price a GB', right: true, wide: true },
  { order: 'verdict', text: 'Verdict' },
];

/** Every instrument that passes the filter, in groups; only the rows in sight are drawn. */
export function InstrumentTable({ entries }: { entries: readonly ShelfEntry[] }) {
  const { groupBy, order, descending, selected } = useShelf();
  const lines = useMemo(
    () =>
      groupShelf(entries, groupBy, order, descending, FAMILIES).flatMap((group): Line[] => [
        ...(groupBy === 'none'
          ? []
          : [{ kind: 'group' as const, name: group.name, count: group.entries.length }]),
        ...group.entries.map((entry): Line => ({ kind: 'entry', entry })),
      ]),
    [entries, groupBy, order, descending],
  );
  const frame = useRef<HTMLDivElement>(null);
  // No compiler memoises here, so its functions cannot grow stale.
  // oxlint-disable-next-line react/incompatible-library
  const rows = useVirtualizer({
    count: lines.length,
    getScrollElement: () => frame.current,
    estimateSize: (i) => (lines[i].kind === 'group' ? GROUP_HEIGHT : ROW_HEIGHT),
    getItemKey: (i) => {
      const line = lines[i];
      return line.kind === 'group' ? `group ${line.name}` : line.entry.id;
    },
    overscan: 12,
  });
  const at = lines.findIndex(
    (line) => line.kind === 'entry' && selected?.kind === 'instrument' && line.entry.id === selected.id,
  );
  // Other groups or heights: sizes that were kept belong to other rows.
  useEffect(() => rows.measure(), [lines, rows]);

  const move = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 12, PageUp: -12 }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    let next =
      at < 0 ? (step > 0 ? 0 : lines.length - 1) : Math.min(lines.length - 1, Math.max(0, at + step));
    while (lines[next]?.kind === 'group') next += step > 0 ? 1 : -1;
    const line = lines[next];
    if (line?.kind !== 'entry') return;
    selectInstrument(line.entry.id);
    rows.scrollToIndex(next);
  };
  return (
    <div
      className="@container flex min-h-0 flex-1 flex-col"
      role="grid"
      aria-label="Instruments"
      aria-rowcount={lines.length + 1}
    >
      <div
        role="row"
        className={`grid ${COLUMNS} items-center border-b border-rule px-3 py-1 text-xs text-ink-3`}
      >
        <span role="columnheader">
          <span className="sr-only">Family</span>
        </span>
        {HEADS.map((head) => (
          <HeadCell key={head.order} {...head} />
        ))}
      </div>
      <div
        ref={frame}
        role="rowgroup"
        tabIndex={0}
        aria-label="Instruments; arrow keys choose"
        className="min-h-0 flex-1 overflow-auto"
        onKeyDown={move}
      >
        <div role="presentation" style={{ height: rows.getTotalSize(), position: 'relative' }}>
          {rows.getVirtualItems().map((item) => {
            const line = lines[item.index];
            return (
              <div
                key={item.key}
                role="presentation"
                style={{
                  position: 'absolute',
                  top: 0,
                  left: 0,
                  right: 0,
                  transform: `translateY(${item.start}px)`,
                }}
              >
                {line.kind === 'group' ? (
                  <GroupRow name={line.name} count={line.count} index={item.index} />
                ) : (
                  <EntryRow entry={line.entry} active={item.index === at} index={item.index} />
                )}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

function HeadCell({ order, text, right, wide }: (typeof HEADS)[number]) {
  const { order: current, descending } = useShelf();
  const active = current === order;
  const Arrow = descending ? ArrowDown : ArrowUp;
  return (
    <span
      role="columnheader"
      aria-sort={active ? (descending ? 'descending' : 'ascending') : 'none'}
      className={`${right ? 'text-right' : order === 'range' ? 'pl-4' : order === 'verdict' ? 'pl-3' : ''} ${wide ? WIDE : ''}`}
    >
      <button
        type="button"
        onClick={() => orderBy(order)}
        className={`inline-flex min-h-6 items-center gap-0.5 hover:text-ink ${active ? 'text-ink' : ''}`}
      >
        {text}
        {active && <Arrow size={11} aria-hidden />}
      </button>
    </span>
  );
}

function GroupRow({ name, count, index }: { name: string; count: number; index: number }) {
  const groupBy = useShelf((state) => state.groupBy);
  const library = useLibraries((state) =>
    groupBy === 'library' ? state.libraries?.find((one) => one.name === name) : undefined,
  );
  return (
    <div
      role="row"
      aria-rowindex={index + 2}
      style={{ height: GROUP_HEIGHT }}
      className="flex items-end gap-2 border-b border-rule px-3 pb-1"
    >
      <span role="gridcell" className="min-w-0 truncate">
        {library ? (
          <button
            type="button"
            className="font-serif text-[15px] font-semibold hover:underline"
            onClick={() => useShelf.setState({ selected: { kind: 'library', id: library.id } })}
          >
            {library.name}
          </button>
        ) : (
          <span className="font-serif text-[15px] font-semibold capitalize">{name}</span>
        )}{' '}
        <span className="text-xs text-ink-3">
          {library
            ? [
                library.room,
                library.facts.roomSound,
                library.facts.players && `players ${library.facts.players}`,
                library.facts.price === null ? '' : `${library.facts.price} marks`,
                perGb(library),
              ]
                .filter(Boolean)
                .join(' · ')
            : `${count} ${count === 1 ? 'instrument' : 'instruments'}`}
        </span>
      </span>
    </div>
  );
}

function perGb(library: Parameters<typeof pricePerGb>[0]): string {
  const price = pricePerGb(library);
  return price === null ? '' : `${Math.round(price).toLocaleString('en')} a GB`;
}

function EntryRow({ entry, active, index }: { entry: ShelfEntry; active: boolean; index: number }) {
  const groupBy = useShelf((state) => state.groupBy);
  const loaded = useInstruments((state) => state.loads[entry.id] !== undefined);
  const low = Math.min(...entry.articulations.map((one) => one.low));
  const high = Math.max(...entry.articulations.map((one) => one.high));
  return (
    <div
      role="row"
      aria-rowindex={index + 2}
      aria-selected={active}
      onClick={() => selectInstrument(entry.id)}
      style={{ height: ROW_HEIGHT }}
      className={`grid ${COLUMNS} cursor-pointer items-center border-b border-l-[3px] border-b-rule-soft pr-3 pl-[9px] ${active ? 'border-l-cool bg-cool-tint' : 'border-l-transparent hover:bg-ground'}`}
    >
      <span role="gridcell">
        <FamilyTag family={entry.family} />
      </span>
      <span role="gridcell" className="min-w-0 truncate">
        <button
          type="button"
          tabIndex={-1}
          className={`min-h-6 ${active ? 'font-semibold' : ''}`}
          onClick={() => selectInstrument(entry.id)}
        >
          {entry.name}
        </button>
        {groupBy !== 'library' && <span className="ml-2 text-xs text-ink-3">{entry.library}</span>}
      </span>
      <span role="gridcell" className={`truncate text-ink-2 ${WIDE}`}>
        {entry.room}, {entry.roomSound}
      </span>
      <span role="gridcell" className="text-right">
        {entry.players}
      </span>
      <span role="gridcell" className="pl-4">
        <RangeBar low={low} high={high} fluid />
      </span>
      <span role="gridcell" className="text-right">
        {entry.articulations.length}
      </span>
      <span role="gridcell" className="text-right">
        {entry.positions.length}
      </span>
      <span
        role="gridcell"
        className={`text-right ${loaded ? 'font-semibold text-cool' : ''}`}
        title={loaded ? 'In memory' : undefined}
      >
        {megabytes(entry.bytes)}
      </span>
      <span role="gridcell" className={`text-right text-ink-2 ${WIDE}`}>
        {entry.pricePerGb === null ? '—' : Math.round(entry.pricePerGb).toLocaleString('en')}
      </span>
      <span role="gridcell" className="flex items-center gap-1 truncate pl-3 font-serif text-ink-2 italic">
        {entry.starred && <Star size={11} aria-label="starred" fill="currentColor" className="shrink-0" />}
        {entry.verdict}
      </span>
    </div>
  );
}
