import { useEffect, useRef } from 'react';
import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  LinearScale,
  LineController,
  LineElement,
  LogarithmicScale,
  PointElement,
  ScatterController,
  Tooltip,
  type ChartDataset,
  type ChartOptions,
} from 'chart.js';
import { useTheme } from '../../../app/theme-choice.ts';

Chart.register(
  BarController,
  BarElement,
  CategoryScale,
  LinearScale,
  LineController,
  LineElement,
  LogarithmicScale,
  PointElement,
  ScatterController,
  Tooltip,
);

/** One line, cloud or row of bars; `slot` chooses its stroke, by which contenders are told apart without colour. */
export interface Series {
  name: string;
  slot: number;
  points: readonly { x: number; y: number; label?: string }[];
  /** Drawn as a ring, for places that stand out. */
  ring?: boolean;
}

interface AxisEnds {
  min?: number;
  max?: number;
  step?: number;
}

interface SmallChartProps {
  title: string;
  /** Units of both axes, in a few words. */
  x: string;
  y: string;
  kind: 'line' | 'cloud' | 'bars';
  series: readonly Series[];
  logarithmic?: boolean;
  /** Names along the horizontal axis in place of numbers. */
  names?: readonly string[];
  tick?: (value: number) => string;
  /** Ends and step of an axis where its figures ask for them. */
  xAxis?: AxisEnds;
  yAxis?: AxisEnds & { tick?: (value: number) => string };
  /** Said where there is nothing to draw. */
  empty: string;
  height?: number;
}

const DASHES = [[], [], [5, 3], [1, 3], [8, 3, 2, 3], [2, 2]];
/** Slot of lines that stand back. */
export const FINE = 6;

function tokens() {
  const style = getComputedStyle(document.documentElement);
  const of = (name: string) => style.getPropertyValue(name).trim();
  return {
    ink: of('--ink'),
    ink2: of('--ink-2'),
    ink3: of('--ink-3'),
    rule: of('--rule-soft'),
    cool: of('--cool'),
    warm: of('--warm'),
    straw: of('--straw'),
    sheet: of('--sheet'),
  };
}

/** A small chart with its title and units, drawn in the theme's ink; its figures are in the table for screen readers below it. */
export function SmallChart(props: SmallChartProps) {
  const { title, x, y, kind, series, names, tick, empty, height = 132 } = props;
  const canvas = useRef<HTMLCanvasElement>(null);
  const theme = useTheme((state) => state.theme);
  const filled = series.filter((one) => one.points.length > 0);
  const text = JSON.stringify([kind, filled, names, props.logarithmic, props.xAxis, props.yAxis]);
  useEffect(() => {
    if (!canvas.current || filled.length === 0) return;
    const colours = tokens();
    const chart = new Chart(canvas.current, {
      type: kind === 'line' ? 'line' : kind === 'cloud' ? 'scatter' : 'bar',
      data: {
        labels: names ? [...names] : undefined,
        datasets: filled.map((one) => dataset(one, kind, colours)),
      },
      options: options(colours, props),
    });
    return () => chart.destroy();
    // The text says all that is drawn.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [text, theme]);
  return (
    <figure className="m-0 min-w-0">
      <figcaption className="flex items-baseline justify-between gap-2">
        <span className="truncate font-serif font-semibold">{title}</span>
        <span className="shrink-0 text-xs text-ink-3">{y}</span>
      </figcaption>
      {filled.length === 0 ? (
        <p className="text-ink-3" style={{ height }}>
          {empty}
        </p>
      ) : (
        <>
          <div className="relative" style={{ height }} aria-hidden>
            <canvas ref={canvas} />
          </div>
          <div className="text-right text-xs text-ink-3">{x}</div>
          <FigureTable title={title} x={x} y={y} series={filled} names={names} tick={tick} />
        </>
      )}
    </figure>
  );
}

/** The same figures as a table that only assistive technology meets. */
function FigureTable({
  title,
  x,
  y,
  series,
  names,
  tick,
}: Pick<SmallChartProps, 'title' | 'x' | 'y' | 'series' | 'names' | 'tick'>) {
  return (
    <table className="sr-only">
      <caption>{`${title}: ${y} against ${x}`}</caption>
      <thead>
        <tr>
          <th scope="col">Contender</th>
          <th scope="col">{x}</th>
          <th scope="col">{y}</th>
        </tr>
      </thead>
      <tbody>
        {series.flatMap((one) =>
          one.points.map((point, i) => (
            <tr key={`${one.name} ${i}`}>
              <td>{one.name}</td>
              <td>{point.label ?? names?.[point.x] ?? tick?.(point.x) ?? Math.round(point.x * 10) / 10}</td>
              <td>{Math.round(point.y * 10) / 10}</td>
            </tr>
          )),
        )}
      </tbody>
    </table>
  );
}

function dataset(
  { name, slot, points, ring }: Series,
  kind: SmallChartProps['kind'],
  colours: ReturnType<typeof tokens>,
): ChartDataset {
  const colour = ring
    ? colours.warm
    : slot === FINE
      ? colours.ink3
      : [colours.ink, colours.cool, colours.ink3, colours.straw][slot % 4];
  const data = points.map((point) => (kind === 'bars' ? { ...point, x: point.y, y: point.x } : { ...point }));
  if (kind === 'bars')
    return { type: 'bar', label: name, data, backgroundColor: colour, barPercentage: 0.7, parsing: false };
  const dots = kind === 'cloud' || ring;
  return {
    type: kind === 'cloud' ? 'scatter' : 'line',
    label: name,
    data,
    parsing: false,
    borderColor: colour,
    backgroundColor: ring ? 'transparent' : colour,
    borderWidth: ring ? 1.5 : slot === FINE ? 0.7 : slot === 1 ? 2.2 : 1.4,
    borderDash: slot === FINE ? [] : DASHES[slot % DASHES.length],
    pointRadius: dots ? (ring ? 5 : 2.2) : 0,
    pointStyle: ring ? 'circle' : (['circle', 'triangle', 'rect', 'crossRot'] as const)[slot % 4],
    pointHitRadius: 6,
    showLine: !dots,
  } as ChartDataset;
}

const written = (value: number | string) => String(value).replace('-', '−');

function options(
  colours: ReturnType<typeof tokens>,
  { kind, logarithmic, names, tick, xAxis, yAxis }: SmallChartProps,
): ChartOptions {
  const font = { family: "'Public Sans Variable', sans-serif", size: 12 };
  const axis = (ends: AxisEnds | undefined, name: ((value: number) => string) | undefined, most: number) => ({
    grid: { color: colours.rule },
    border: { color: colours.rule },
    min: ends?.min,
    max: ends?.max,
    ticks: {
      color: colours.ink3,
      font,
      maxRotation: 0,
      ...(ends?.step === undefined ? { maxTicksLimit: most } : { stepSize: ends.step, autoSkip: false }),
      callback: (value: number | string) => (name ? name(Number(value)) : written(value)),
    },
  });
  // Bars lie, so that their names can be read.
  const bars = kind === 'bars';
  const along = { ...axis(xAxis, tick, 5), type: logarithmic ? 'logarithmic' : 'linear' };
  const across = { ...axis(yAxis, yAxis?.tick, 4), type: 'linear' };
  const named = {
    ...axis(undefined, (value) => names?.[value] ?? '', names?.length ?? 1),
    type: 'category',
    grid: { display: false },
  };
  return {
    responsive: true,
    maintainAspectRatio: false,
    animation: false,
    indexAxis: bars ? 'y' : 'x',
    interaction: { mode: 'nearest', intersect: false },
    plugins: {
      legend: { display: false },
      tooltip: {
        backgroundColor: colours.sheet,
        titleColor: colours.ink,
        bodyColor: colours.ink,
        borderColor: colours.ink3,
        borderWidth: 1,
        cornerRadius: 2,
        titleFont: font,
        bodyFont: font,
        displayColors: false,
        callbacks: {
          title: () => '',
          label: (item) => {
            const raw = item.raw as { x: number; y: number; label?: string };
            const at = raw.label ?? (tick ? tick(raw.x) : String(Math.round(raw.x * 10) / 10));
            const value = bars ? raw.x : raw.y;
            return `${item.dataset.label ?? ''}: ${written(Math.round(value * 10) / 10)} at ${at}`;
          },
        },
      },
    },
    scales: bars ? { x: { ...across, beginAtZero: true }, y: named } : { x: along, y: across },
  } as ChartOptions;
}
