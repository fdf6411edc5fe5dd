import { useRef, type PointerEvent } from 'react';
import type { ImportProposal, OwnRecordingShape } from '#api/index.ts';
import { VOCABULARY } from '#core/catalogue/index.ts';
import { isBlackKey, pitchName } from '#core/music/index.ts';
import { Choice } from '../../../ui/field.tsx';
import { Ruler } from '../../../ui/ruler.tsx';

type Heard = NonNullable<ImportProposal['recording']>;

/** Settings a recording begins with: the root that was heard, an octave to both sides, the loop that was found. */
export function startingRecording(heard: Heard): OwnRecordingShape {
  const rootKey = heard.key ?? 60;
  return {
    rootKey,
    cents: heard.cents,
    keyLow: Math.max(0, rootKey - 12),
    keyHigh: Math.min(127, rootKey + 12),
    loop: heard.loop && heard.loop.likeness > 0.8 ? { start: heard.loop.start, end: heard.loop.end } : null,
    articulation: heard.loop && heard.loop.likeness > 0.8 ? 'long' : 'hit',
  };
}

/** The loop that was found, or a middle part of the recording to begin from. */
function loopFor(heard: Heard, frames: number): { start: number; end: number } {
  const { start, end } = heard.loop ?? { start: Math.round(frames * 0.4), end: Math.round(frames * 0.9) };
  return { start, end };
}

/** One's own recording: root, range across a drawn keyboard, loop. */
export function OwnRecording({
  heard,
  value,
  onChange,
}: {
  heard: Heard;
  value: OwnRecordingShape;
  onChange: (value: OwnRecordingShape) => void;
}) {
  const frames = Math.round(heard.seconds * heard.rate);
  const loop = value.loop ?? null;
  return (
    <>
      <p className="text-ink-2">
        {heard.path}: {heard.seconds.toFixed(2)} s at {heard.rate.toLocaleString('en')} Hz.{' '}
        {heard.key === null
          ? 'No clear pitch was heard; say which key it is.'
          : `Heard ${pitchName(heard.key)}${heard.cents === 0 ? '' : ` ${heard.cents > 0 ? '+' : '−'}${Math.abs(heard.cents)} cents`} (${Math.round(heard.clarity * 100)} % clear).`}
      </p>
      <Wave heard={heard} loop={loop} frames={frames} />
      <div className="mt-1 flex items-center gap-4">
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={loop !== null}
            disabled={!heard.loop && frames < 2}
            onChange={(event) =>
              onChange({
                ...value,
                loop: event.target.checked ? loopFor(heard, frames) : null,
              })
            }
          />
          hold with a loop
        </label>
        {heard.loop ? (
          <span className="text-xs text-ink-3">
            found; its ends are {Math.round(heard.loop.likeness * 100)} % alike
          </span>
        ) : (
          <span className="text-xs text-ink-3">no good loop was found: it dies away, or is too short</span>
        )}
      </div>
      {loop && (
        <div className="mt-1 grid grid-cols-2 gap-6">
          <Ruler
            compact
            label="Loop from"
            unit="s"
            value={loop.start / heard.rate}
            low={0}
            high={heard.seconds}
            rest={(heard.loop?.start ?? 0) / heard.rate}
            step={0.01}
            format={(v) => v.toFixed(2)}
            help="Where the held part begins again. Costs nothing."
            onChange={(v) =>
              onChange({
                ...value,
                loop: { start: Math.min(Math.round(v * heard.rate), loop.end - 64), end: loop.end },
              })
            }
          />
          <Ruler
            compact
            label="Loop to"
            unit="s"
            value={loop.end / heard.rate}
            low={0}
            high={heard.seconds}
            rest={(heard.loop?.end ?? frames) / heard.rate}
            step={0.01}
            format={(v) => v.toFixed(2)}
            help="Where it goes back to the beginning of the loop. Costs nothing."
            onChange={(v) =>
              onChange({
                ...value,
                loop: {
                  start: loop.start,
                  end: Math.max(Math.min(frames, Math.round(v * heard.rate)), loop.start + 64),
                },
              })
            }
          />
        </div>
      )}
      <RangeKeys value={value} onChange={onChange} />
      <div className="mt-2 grid grid-cols-2 gap-x-8 gap-y-1.5">
        <KeyField
          label="Root"
          value={value.rootKey}
          onChange={(rootKey) => onChange({ ...value, rootKey })}
        />
        <Choice
          label="Technique"
          value={value.articulation}
          onChange={(event) => onChange({ ...value, articulation: event.target.value })}
          options={VOCABULARY.map(({ id, name }) => ({ value: id, text: name }))}
        />
        <KeyField
          label="Lowest key"
          value={value.keyLow}
          onChange={(keyLow) => onChange({ ...value, keyLow: Math.min(keyLow, value.keyHigh) })}
        />
        <KeyField
          label="Highest key"
          value={value.keyHigh}
          onChange={(keyHigh) => onChange({ ...value, keyHigh: Math.max(keyHigh, value.keyLow) })}
        />
      </div>
    </>
  );
}

function KeyField({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number;
  onChange: (key: number) => void;
}) {
  return (
    <Choice
      label={label}
      value={String(value)}
      onChange={(event) => onChange(Number(event.target.value))}
      options={Array.from({ length: 128 }, (_, key) => ({
        value: String(key),
        text: `${pitchName(key)} (${key})`,
      }))}
    />
  );
}

const WAVE_WIDTH = 780;
const WAVE_HEIGHT = 70;

function Wave({
  heard,
  loop,
  frames,
}: {
  heard: Heard;
  loop: { start: number; end: number } | null;
  frames: number;
}) {
  const middle = WAVE_HEIGHT / 2;
  const most = Math.max(0.01, ...heard.peaks);
  const step = WAVE_WIDTH / heard.peaks.length;
  const top = heard.peaks.map((peak, i) => `${i * step},${middle - (peak / most) * (middle - 2)}`);
  const bottom = heard.peaks
    .map((peak, i) => `${i * step},${middle + (peak / most) * (middle - 2)}`)
    .reverse();
  const x = (frame: number) => (frame / frames) * WAVE_WIDTH;
  return (
    <svg
      viewBox={`0 0 ${WAVE_WIDTH} ${WAVE_HEIGHT}`}
      className="mt-2 w-full border border-rule bg-raised"
      role="img"
      aria-label="The recording's loudness over time"
    >
      {loop && (
        <rect
          x={x(loop.start)}
          y={0}
          width={x(loop.end) - x(loop.start)}
          height={WAVE_HEIGHT}
          fill="var(--cool-tint)"
        />
      )}
      <polygon points={[...top, ...bottom].join(' ')} fill="var(--ink-3)" />
      {loop && (
        <path
          d={`M${x(loop.start)} 0V${WAVE_HEIGHT}M${x(loop.end)} 0V${WAVE_HEIGHT}`}
          stroke="var(--cool)"
          strokeWidth={1.5}
        />
      )}
    </svg>
  );
}

const LOW = 12;
const HIGH = 115;
const KEYS_WIDTH = 780;
const KEY_HEIGHT = 34;

/** A keyboard over which the range is drawn by dragging; a double press sets the root. */
function RangeKeys({
  value,
  onChange,
}: {
  value: OwnRecordingShape;
  onChange: (value: OwnRecordingShape) => void;
}) {
  const from = useRef<number>(undefined);
  const width = KEYS_WIDTH / (HIGH - LOW + 1);
  const x = (key: number) => (key - LOW) * width;
  const keyAt = (event: PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const share = (event.clientX - box.left) / box.width;
    return Math.min(HIGH, Math.max(LOW, LOW + Math.floor(share * (HIGH - LOW + 1))));
  };
  const drag = (event: PointerEvent<SVGSVGElement>) => {
    if (from.current === undefined) return;
    const key = keyAt(event);
    onChange({ ...value, keyLow: Math.min(from.current, key), keyHigh: Math.max(from.current, key) });
  };
  const keys = Array.from({ length: HIGH - LOW + 1 }, (_, i) => LOW + i);
  return (
    <svg
      viewBox={`0 0 ${KEYS_WIDTH} ${KEY_HEIGHT + 22}`}
      className="mt-3 w-full cursor-ew-resize touch-none select-none"
      role="img"
      aria-label={`Plays from ${pitchName(value.keyLow)} to ${pitchName(value.keyHigh)}, root ${pitchName(value.rootKey)}. Drag over the keys to set the range; the fields below do the same.`}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = keyAt(event);
        drag(event);
      }}
      onPointerMove={drag}
      onPointerUp={() => (from.current = undefined)}
      onDoubleClick={(event) => {
        const box = event.currentTarget.getBoundingClientRect();
        const share = (event.clientX - box.left) / box.width;
        onChange({ ...value, rootKey: LOW + Math.floor(share * (HIGH - LOW + 1)) });
      }}
    >
      <path
        d={`M${x(value.keyLow)} 4V12M${x(value.keyHigh + 1)} 4V12M${x(value.keyLow)} 8H${x(value.keyHigh + 1)}`}
        stroke="var(--ink)"
        strokeWidth={1.5}
        fill="none"
      />
      {keys.map((key) => (
        <rect
          key={key}
          x={x(key)}
          y={14}
          width={width}
          height={isBlackKey(key) ? KEY_HEIGHT * 0.62 : KEY_HEIGHT}
          fill={
            key === value.rootKey
              ? 'var(--cool)'
              : isBlackKey(key)
                ? 'var(--black-key)'
                : key >= value.keyLow && key <= value.keyHigh
                  ? 'var(--cool-tint)'
                  : 'var(--white-key)'
          }
          stroke="var(--key-line)"
          strokeWidth={0.5}
        />
      ))}
      {keys
        .filter((key) => key % 12 === 0)
        .map((key) => (
          <text key={key} x={x(key) + 1} y={KEY_HEIGHT + 21} fontSize={11} fill="var(--ink-3)">
            {pitchName(key)}
          </text>
        ))}
    </svg>
  );
}
