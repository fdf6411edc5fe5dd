import { pitchName } from '#core/music/index.ts';

const LOW = 21;
const HIGH = 108;

/** A small bar over the keys of a piano, with the octaves as ticks. */
export function RangeBar({
  low,
  high,
  width = 150,
  fluid = false,
}: {
  low: number;
  high: number;
  width?: number;
  /** As wide as its place. */
  fluid?: boolean;
}) {
  const x = (key: number) => ((Math.min(HIGH, Math.max(LOW, key)) - LOW) / (HIGH - LOW)) * width;
  const text = `${pitchName(low)} to ${pitchName(high)}`;
  return (
    <svg
      width={fluid ? '100%' : width}
      height={12}
      viewBox={`0 0 ${width} 12`}
      preserveAspectRatio="none"
      role="img"
      aria-label={text}
      className="block [&_path]:[vector-effect:non-scaling-stroke]"
    >
      <title>{text}</title>
      <path d={`M0 6H${width}`} stroke="var(--rule)" />
      {[24, 36, 48, 60, 72, 84, 96].map((key) => (
        <path key={key} d={`M${x(key)} 3V9`} stroke={key === 60 ? 'var(--ink-3)' : 'var(--rule)'} />
      ))}
      <path d={`M${x(low)} 6H${Math.max(x(high), x(low) + 2)}`} stroke="var(--ink)" strokeWidth="3" />
    </svg>
  );
}
