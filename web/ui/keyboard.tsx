import { useRef, type PointerEvent } from 'react';
import { keyFill, keyGeometry } from './key-geometry.ts';
import { useSize } from './use-size.ts';
import { isBlackKey, pitchName, type MiddleC } from '#core/music/index.ts';

interface KeyboardProps {
  low: number;
  high: number;
  middleC: MiddleC;
  held?: readonly number[];
  /** Range rail above the keys. */
  range?: { low: number; high: number };
  /** Trigger tabs below the keys. */
  tabs?: readonly { key: number; text: string; name: string; active: boolean }[];
  /** @param atMs when, by the page's clock */
  onPress?: (key: number, velocity: number, atMs: number) => void;
  onRelease?: (key: number, atMs: number) => void;
  onTab?: (key: number) => void;
}

const TOP = 10;
const WHITE_HEIGHT = 46;
const BLACK_HEIGHT = 29;
const LEADER = 4;
const TAB_WIDTH = 21;
const TAB_HEIGHT = 16;
const HEIGHT = TOP + WHITE_HEIGHT + LEADER + TAB_HEIGHT + 2;

/** A keyboard drawn to scale, with the playable range as a rail above and triggers as lettered flags below. */
export function Keyboard({
  low,
  high,
  middleC,
  held = [],
  range,
  tabs = [],
  onPress,
  onRelease,
  onTab,
}: KeyboardProps) {
  const pressed = useRef<number | undefined>(undefined);
  const [frame, { width: total }] = useSize<HTMLDivElement>();
  const { whites, keys, left, width, middle } = keyGeometry(low, high, total);

  const keyAt = (event: PointerEvent) => {
    const target = document.elementFromPoint(event.clientX, event.clientY);
    const key = target?.getAttribute('data-key');
    return key === null || key === undefined ? undefined : Number(key);
  };
  const press = (key: number | undefined, event: PointerEvent<SVGSVGElement>) => {
    if (key === pressed.current) return;
    if (pressed.current !== undefined) onRelease?.(pressed.current, event.timeStamp);
    pressed.current = key;
    if (key === undefined) return;
    const box = event.currentTarget.getBoundingClientRect();
    const down = event.clientY - box.top - TOP;
    // Nearer to the player's edge is louder.
    onPress?.(
      key,
      Math.round(40 + 80 * Math.min(1, Math.max(0, down / (isBlackKey(key) ? BLACK_HEIGHT : WHITE_HEIGHT)))),
      event.timeStamp,
    );
  };
  return (
    <div ref={frame} className="w-full">
      <svg
        width={total}
        height={HEIGHT}
        className="block touch-none select-none"
        role="group"
        aria-label={`Keyboard${range ? `, playable from ${pitchName(range.low, middleC)} to ${pitchName(range.high, middleC)}` : ''}`}
        onPointerDown={(event) => {
          const key = keyAt(event);
          if (key === undefined) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          press(key, event);
        }}
        onPointerMove={(event) =>
          event.buttons === 1 &&
          event.currentTarget.hasPointerCapture(event.pointerId) &&
          press(keyAt(event), event)
        }
        onPointerUp={(event) => press(undefined, event)}
        onPointerCancel={(event) => press(undefined, event)}
      >
        {range && (
          <path
            d={`M${left(Math.max(low, range.low))} 1V7M${left(Math.max(low, range.low))} 4H${left(Math.min(high, range.high)) + width(Math.min(high, range.high))}M${left(Math.min(high, range.high)) + width(Math.min(high, range.high))} 1V7`}
            stroke="var(--ink)"
            strokeWidth="1.5"
            fill="none"
          />
        )}
        {keys.map((key) => {
          const black = isBlackKey(key);
          const down = held.includes(key);
          return (
            <g key={key}>
              <rect
                data-key={key}
                x={left(key)}
                y={TOP}
                width={width(key)}
                height={black ? BLACK_HEIGHT : WHITE_HEIGHT}
                fill={keyFill(black, down)}
                stroke="var(--key-line)"
              />
              {down && !black && (
                <rect
                  x={left(key)}
                  y={TOP + WHITE_HEIGHT - 5}
                  width={width(key)}
                  height={5}
                  fill="var(--cool)"
                  pointerEvents="none"
                />
              )}
            </g>
          );
        })}
        {whites
          .filter((key) => key % 12 === 0 && key < high - 1)
          .map((key) => (
            <text
              key={key}
              x={left(key) + 2}
              y={TOP + WHITE_HEIGHT - 6}
              fontSize="12"
              fill="var(--key-text)"
              pointerEvents="none"
            >
              {pitchName(key, middleC)}
            </text>
          ))}
        {placeTabs(
          tabs.filter((tab) => tab.key >= low && tab.key <= high),
          middle,
          total,
        ).map(({ tab, x }) => (
          <g
            key={tab.key}
            role="button"
            tabIndex={0}
            aria-pressed={tab.active}
            aria-label={`${tab.name}, keyswitch ${pitchName(tab.key, middleC)}`}
            className="cursor-pointer"
            onClick={() => onTab?.(tab.key)}
            onKeyDown={(event) => event.key === 'Enter' && onTab?.(tab.key)}
          >
            <path
              d={`M${middle(tab.key)} ${TOP + WHITE_HEIGHT}L${x + TAB_WIDTH / 2} ${TAB_TOP}`}
              stroke="var(--ink-2)"
            />
            <path
              d={`M${x} ${TAB_TOP}h${TAB_WIDTH}v${TAB_HEIGHT - 4}l-4 4H${x}Z`}
              fill={tab.active ? 'var(--ink)' : 'var(--raised)'}
              stroke="var(--ink-2)"
            />
            <text
              x={x + TAB_WIDTH / 2}
              y={TAB_TOP + 12}
              fontSize="12"
              fontWeight="600"
              textAnchor="middle"
              fill={tab.active ? 'var(--sheet)' : 'var(--ink)'}
            >
              {tab.text}
            </text>
            <title>{`${pitchName(tab.key, middleC)}: ${tab.name}`}</title>
          </g>
        ))}
      </svg>
    </div>
  );
}

const TAB_TOP = TOP + WHITE_HEIGHT + LEADER;

type Tab = NonNullable<KeyboardProps['tabs']>[number];

/** Tabs under their keys, pushed to the right where they would overlap, and kept inside the frame. */
function placeTabs(
  tabs: readonly Tab[],
  middle: (key: number) => number,
  total: number,
): { tab: Tab; x: number }[] {
  const placed: { tab: Tab; x: number }[] = [];
  let next = 1;
  for (const tab of [...tabs].sort((a, b) => a.key - b.key)) {
    const x = Math.max(next, middle(tab.key) - TAB_WIDTH / 2);
    placed.push({ tab, x });
    next = x + TAB_WIDTH + 1;
  }
  const over = next - 1 - total;
  return over > 0 ? placed.map(({ tab, x }) => ({ tab, x: x - over })) : placed;
}
