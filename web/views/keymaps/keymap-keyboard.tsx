import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import type { InstrumentSummary } from '#api/index.ts';
import { isBlackKey, pitchName } from '#core/music/index.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { useVocabulary, voicingOf, type HouseKeymap } from '../../state/keymaps.ts';
import { useDocuments } from '../../state/documents.ts';
import { keyFill, keyGeometry } from '../../ui/key-geometry.ts';
import { useSize } from '../../ui/use-size.ts';
import { change, setTrigger } from './keymap-edits.ts';
import { choose, useKeymaps } from './keymaps-state.ts';
import { rangesFor, type KeymapShown } from './looked-at.ts';

const LINE = 15;
const WHITE = 54;
const BLACK = 34;
const TAB_WIDTH = 23;
const TAB_HEIGHT = 18;
const TAB_ROW = TAB_HEIGHT + 3;
const LABEL_GAP = 6;
const LEADER = 14;

const TAB_FILL = { none: 'var(--raised)', differs: 'var(--straw-tint)', mend: 'var(--warm-tint)' };
const TAB_EDGE = { none: 'var(--ink-2)', differs: 'var(--straw)', mend: 'var(--warm)' };

interface Tab {
  triggerId: string;
  entryId: string;
  articulation: string;
  key: number;
  text: string;
  name: string;
  held: boolean;
  /** How it is told apart: something to mend, or something that only differs from other sections. */
  clash: 'mend' | 'differs' | undefined;
}

/** A keyboard to scale: who plays what above the keys, what selects what below them. Tabs are dragged, or stepped by arrow keys. */
export function KeymapKeyboard({ house, instrument, clashes, middleC, mayEdit }: KeymapShown) {
  const [frame, { width: total }] = useSize<HTMLDivElement>();
  const vocabulary = useVocabulary();
  const records = useDocuments((state) => state.records);
  const chosen = useKeymaps((state) => state.entryId);
  const sounding = usePerformance((state) => state.articulation);
  const pressed = usePerformance((state) => state.held);
  const [drag, setDrag] = useState<{ id: string; key: number }>();
  const svg = useRef<SVGSVGElement>(null);

  const lines = rangeLines(house, instrument, (id) => vocabulary.term(id).name, records);
  const clashing = new Map(
    clashes.map(({ triggerId, kind }) => [triggerId, kind === 'differs' ? 'differs' : 'mend'] as const),
  );
  const tabs = house.keymap.entries.flatMap((entry) =>
    entry.triggers.flatMap((trigger): Tab[] => {
      if (trigger.kind !== 'key') return [];
      const { tab, name } = vocabulary.term(entry.articulation);
      return [
        {
          triggerId: trigger.id,
          entryId: entry.id,
          articulation: entry.articulation,
          key: drag?.id === trigger.id ? drag.key : trigger.number,
          text: tab,
          name,
          held: trigger.hold === 'held',
          clash: clashing.get(trigger.id),
        },
      ];
    }),
  );
  const ranges = rangesFor(house, instrument);
  const [low, high] = spanOf([
    ...ranges.flatMap((one) => [one.low, one.high]),
    ...tabs.map(({ key }) => key),
  ]);
  const { whites, keys, left, width, middle, nearest } = keyGeometry(low, high, total);
  const top = lines.length * LINE + 6;
  const placed = placeTabs(tabs, middle, total);
  const rows = placed.reduce((most, { row }) => Math.max(most, row + 1), 1);
  const tabTop = top + WHITE + LEADER;
  const height = tabTop + rows * TAB_ROW + 2;

  const move = (tab: Tab, key: number) => {
    if (key < 0 || key > 127 || key === tab.key) return;
    change(`Move ${tab.name} to ${pitchName(key, middleC)}`, house, [
      setTrigger(tab.triggerId, { number: key }),
    ]);
  };
  const onKey = (event: KeyboardEvent, tab: Tab) => {
    const step = { ArrowRight: 1, ArrowLeft: -1, PageUp: 12, PageDown: -12 }[event.key];
    if (event.key === 'Enter' || event.key === ' ') choose(tab.entryId);
    else if (step !== undefined && mayEdit) move(tab, tab.key + step);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const keyUnder = (event: PointerEvent) =>
    nearest(event.clientX - (svg.current?.getBoundingClientRect().left ?? 0));

  return (
    <div ref={frame} className="w-full">
      <svg
        ref={svg}
        width={total}
        height={height}
        className="block touch-none select-none"
        role="group"
        aria-label={`Keyboard of ${instrument.name} with triggers`}
      >
        {lines.map(({ text, low: from, high: to, standIn }, i) => {
          const y = 8 + i * LINE;
          const x = left(Math.max(low, from));
          const end = left(Math.min(high, to)) + width(Math.min(high, to));
          const before = x > 7.2 * text.length;
          return (
            <g key={text}>
              <path
                d={`M${x} ${y - 4}V${y + 4}M${x} ${y}H${end}M${end} ${y - 4}V${y + 4}`}
                stroke={standIn ? 'var(--straw)' : 'var(--ink-2)'}
                strokeDasharray={standIn ? '4 3' : undefined}
                strokeWidth={1.5}
                fill="none"
              />
              <text
                x={before ? x - LABEL_GAP : end + LABEL_GAP}
                y={y + 4}
                fontSize="12"
                textAnchor={before ? 'end' : 'start'}
                fill="var(--ink-2)"
              >
                {text}
              </text>
            </g>
          );
        })}
        {keys.map((key) => {
          const black = isBlackKey(key);
          const down = pressed.includes(key);
          return (
            <rect
              key={key}
              x={left(key)}
              y={top}
              width={width(key)}
              height={black ? BLACK : WHITE}
              fill={keyFill(black, down)}
              stroke="var(--key-line)"
            />
          );
        })}
        {whites
          .filter((key) => key % 12 === 0 && key < high - 1)
          .map((key) => (
            <text key={key} x={left(key) + 2} y={top + WHITE - 6} fontSize="12" fill="var(--key-text)">
              {pitchName(key, middleC)}
            </text>
          ))}
        {placed.map(({ tab, x, row }) => {
          const y = tabTop + row * TAB_ROW;
          const active = tab.articulation === sounding;
          const dragged = drag?.id === tab.triggerId;
          return (
            <g
              key={tab.triggerId}
              role="button"
              tabIndex={0}
              aria-pressed={tab.entryId === chosen}
              aria-label={`${tab.name}, ${tab.held ? 'while held' : 'latching'}, ${pitchName(tab.key, middleC)}${tab.clash === 'mend' ? ', clashes' : tab.clash ? ', differs from other sections' : ''}. Arrow keys move it.`}
              className={`outline-offset-1 ${mayEdit ? 'cursor-grab' : 'cursor-pointer'}`}
              onKeyDown={(event) => onKey(event, tab)}
              onPointerDown={(event) => {
                choose(tab.entryId);
                if (!mayEdit) return;
                event.currentTarget.setPointerCapture(event.pointerId);
                setDrag({ id: tab.triggerId, key: tab.key });
              }}
              onPointerMove={(event) => dragged && setDrag({ id: tab.triggerId, key: keyUnder(event) })}
              onPointerUp={() => {
                if (!dragged) return;
                setDrag(undefined);
                const known = house.keymap.entries
                  .flatMap((entry) => entry.triggers)
                  .find(({ id }) => id === tab.triggerId);
                if (known && drag.key !== known.number) move({ ...tab, key: known.number }, drag.key);
              }}
              onPointerCancel={() => setDrag(undefined)}
            >
              <path
                d={`M${middle(tab.key)} ${top + WHITE}V${top + WHITE + 2}L${x + TAB_WIDTH / 2} ${y}`}
                stroke="var(--ink-2)"
                fill="none"
              />
              <path
                d={
                  tab.held
                    ? `M${x + 4} ${y}H${x + TAB_WIDTH - 4}L${x + TAB_WIDTH} ${y + TAB_HEIGHT}H${x}Z`
                    : `M${x} ${y}h${TAB_WIDTH}v${TAB_HEIGHT - 4}l-4 4H${x}Z`
                }
                fill={active ? 'var(--ink)' : TAB_FILL[tab.clash ?? 'none']}
                stroke={tab.entryId === chosen ? 'var(--cool)' : TAB_EDGE[tab.clash ?? 'none']}
                strokeWidth={tab.entryId === chosen ? 2 : 1}
              />
              <text
                x={x + TAB_WIDTH / 2}
                y={y + 13}
                fontSize="12"
                fontWeight="600"
                textAnchor="middle"
                fill={active ? 'var(--sheet)' : 'var(--ink)'}
                pointerEvents="none"
              >
                {tab.text}
              </text>
              <title>{`${pitchName(tab.key, middleC)}: ${tab.name}`}</title>
            </g>
          );
        })}
      </svg>
    </div>
  );
}

interface RangeLine {
  text: string;
  low: number;
  high: number;
  standIn: boolean;
}

/** Ranges above the keys: articulations with the same range share a line, the widest first. */
function rangeLines(
  { keymap }: HouseKeymap,
  instrument: InstrumentSummary,
  nameOf: (id: string) => string,
  records: Parameters<typeof voicingOf>[0],
): RangeLine[] {
  const { repertoire } = voicingOf(records, keymap, instrument);
  const lines = new Map<string, RangeLine & { names: string[] }>();
  const ids = keymap.entries.length > 0 ? keymap.entries.map((one) => one.articulation) : repertoire.terms;
  for (const id of ids) {
    const found = repertoire.find(id);
    const own = found?.voiced
      .map(({ index }) => instrument.articulations[index])
      .filter(({ high }) => high > 0);
    if (!found || !own || own.length === 0) continue;
    const low = Math.min(...own.map((one) => one.low));
    const high = Math.max(...own.map((one) => one.high));
    const standIn = found.distance !== 'own';
    const sign = `${low} ${high} ${standIn}`;
    const known = lines.get(sign);
    if (known) known.names.push(nameOf(id));
    else lines.set(sign, { low, high, standIn, text: '', names: [nameOf(id)] });
  }
  return [...lines.values()]
    .sort((a, b) => Number(a.standIn) - Number(b.standIn) || b.high - b.low - (a.high - a.low))
    .map(({ names, ...line }) => ({ ...line, text: shortList(names, line.standIn) }));
}

function shortList(names: readonly string[], standIn: boolean): string {
  const shown = names.slice(0, 3).join(', ');
  const rest = names.length > 3 ? ` and ${names.length - 3} more` : '';
  return `${shown}${rest}${standIn ? ' (stand-in)' : ''}`;
}

/** Whole octaves around all that is to be seen. */
function spanOf(keys: readonly number[]): [number, number] {
  const low = Math.min(36, ...keys);
  const high = Math.max(84, ...keys);
  return [Math.max(0, Math.floor(low / 12) * 12), Math.min(127, Math.ceil((high + 1) / 12) * 12 - 1)];
}

/** Tabs under their keys, pushed to the right where they would overlap; what does not fit takes a further row. */
function placeTabs(
  tabs: readonly Tab[],
  middle: (key: number) => number,
  total: number,
): { tab: Tab; x: number; row: number }[] {
  const step = TAB_WIDTH + 1;
  const perRow = Math.max(1, Math.floor((total - 1) / step));
  const sorted = [...tabs].sort((a, b) => a.key - b.key);
  const placed: { tab: Tab; x: number; row: number }[] = [];
  for (let row = 0; row * perRow < sorted.length; row++) {
    const own = sorted.slice(row * perRow, (row + 1) * perRow);
    let next = 1;
    const places = own.map((tab) => {
      const x = Math.max(next, middle(tab.key) - TAB_WIDTH / 2);
      next = x + step;
      return x;
    });
    // Pushed over the edge, the last ones go back to the left, and push those before them.
    for (let i = own.length - 1, end = total - 1; i >= 0; i--) {
      places[i] = Math.min(places[i], end - TAB_WIDTH);
      end = places[i] - 1;
    }
    own.forEach((tab, i) => placed.push({ tab, x: places[i], row }));
  }
  return placed;
}
