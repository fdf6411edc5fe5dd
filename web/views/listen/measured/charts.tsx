import { byNearness, positionName } from '#core/catalogue/index.ts';
import { THIRD_OCTAVES } from '#core/measure/index.ts';
import { pitchName, type MiddleC } from '#core/music/index.ts';
import type { ArticulationReport, PositionFigures } from '#core/report/index.ts';
import { FINE, SmallChart, type Series } from './chart.tsx';
import type { MeasuredContender } from './measured-contender.ts';

const JITTER = 0.5;
/** Bands this far below the loudest are not heard beside it. */
const HEARD_DB = 50;

/** Small charts of the looked-at technique, one line or cloud for each contender. */
export function Charts({
  list,
  position,
  chosen,
  middleC,
}: {
  list: readonly MeasuredContender[];
  position: string | undefined;
  /** Contender whose other layers are drawn too, by id. */
  chosen: string | undefined;
  middleC: MiddleC;
}) {
  const each = (
    points: (one: MeasuredContender, own: PositionFigures | undefined) => Series['points'],
  ): Series[] =>
    list.map((one) => ({
      name: one.contender.letter,
      slot: one.slot,
      points: points(
        one,
        one.report?.positions.find(({ id }) => id === position) ?? one.report?.positions[0],
      ),
    }));
  const byVelocity = list.every(({ report }) => middleCurve(report?.curves ?? [])?.controller !== 'dynamics');
  const positions = [...new Set(list.flatMap((one) => one.report?.positions.map(({ id }) => id) ?? []))].sort(
    byNearness,
  );
  const moves = list.some(({ report }) => (report?.moves.length ?? 0) > 0);
  return (
    <div className="mt-4 grid grid-cols-[repeat(auto-fill,minmax(248px,1fr))] gap-x-6 gap-y-3">
      <SmallChart
        title="Level over key"
        x="key"
        y="LUFS; middle layer, others fine"
        kind="line"
        tick={(key) => pitchName(Math.round(key), middleC)}
        xAxis={octaves(list)}
        empty="No level could be measured."
        series={[
          ...each(({ report }, own) => levelsOf(own, middleLayer(report))),
          ...otherLayers(list.find((one) => one.contender.id === chosen) ?? list[0], position),
        ]}
      />
      <SmallChart
        title="When notes speak"
        x="milliseconds after the key"
        y="contender"
        kind="cloud"
        yAxis={{
          min: 0.4,
          max: list.length + 0.6,
          step: 1,
          tick: (value) => list[list.length - Math.round(value)]?.contender.letter ?? '',
        }}
        empty="Nothing here starts a note."
        series={list.map(({ contender, slot, report }) => ({
          name: contender.letter,
          slot,
          points: (report?.onsets ?? []).map((one, i) => ({
            x: one.seconds * 1000,
            // Spread a little, so that equal ones do not hide each other; first contender on top.
            y: list.length - slot + JITTER * (((i * 7) % 11) / 11 - 0.5),
            label: `${Math.round(one.seconds * 1000)} ms, ${pitchName(one.key, middleC)}`,
          })),
        }))}
      />
      <SmallChart
        title={byVelocity ? 'Loudness along the velocity' : 'Loudness along the controller'}
        x={byVelocity ? 'velocity' : 'dynamics, pp … ff'}
        y="LUFS"
        kind="line"
        xAxis={{ min: 0, max: 128, step: 32 }}
        empty="It has one layer only."
        series={[
          ...each(({ report }) => {
            const curve = middleCurve(report?.curves ?? []);
            return (curve?.lufs ?? []).flatMap((lufs, i) =>
              Number.isFinite(lufs) && i % 2 === 0 ? [{ x: i + 1, y: lufs }] : [],
            );
          }),
          ...list.map(({ contender, slot, report }) => {
            const curve = middleCurve(report?.curves ?? []);
            return {
              name: `${contender.letter}, step`,
              slot,
              ring: true,
              points: (curve?.steps ?? [])
                .filter((step) => Math.abs(step.stepLu) >= 3)
                .map((step) => ({
                  x: step.at,
                  y: curve?.lufs[Math.round(step.at) - 1] ?? 0,
                  label: `${step.at}, a step of ${step.stepLu.toFixed(1)} LU`,
                })),
            };
          }),
        ]}
      />
      <SmallChart
        title="Third octaves"
        x="hertz"
        y="dB"
        kind="line"
        logarithmic
        tick={(hertz) => (hertz >= 1000 ? `${Math.round(hertz / 100) / 10}k` : String(Math.round(hertz)))}
        empty="No tone could be measured."
        series={each((_, own) => {
          const most = Math.max(...(own?.thirds ?? []));
          return (own?.thirds ?? []).flatMap((level, i) =>
            level > most - HEARD_DB ? [{ x: THIRD_OCTAVES[i], y: level }] : [],
          );
        })}
      />
      <SmallChart
        title="Tail to −60 dB"
        x="seconds"
        y="position, near to far"
        kind="bars"
        names={positions.map((id) => positionName(id).toLowerCase())}
        empty="No tail could be measured."
        series={list.map(({ contender, slot, report }) => ({
          name: contender.letter,
          slot,
          points: positions.flatMap((id, x) => {
            const tail = report?.positions.find((one) => one.id === id)?.tailSeconds;
            return tail === null || tail === undefined ? [] : [{ x, y: tail, label: positionName(id) }];
          }),
        }))}
      />
      {moves && (
        <SmallChart
          title="Moves by interval"
          x="semitones, down … up"
          y="milliseconds to land"
          kind="line"
          xAxis={{ min: -12, max: 12, step: 6 }}
          empty="No moves were recorded."
          series={list.map(({ contender, slot, report }) => ({
            name: contender.letter,
            slot,
            points: [...(report?.moves ?? [])]
              .sort((a, b) => a.interval - b.interval)
              .map((move) => ({
                x: move.interval,
                y: move.seconds * 1000,
                label: `${move.interval} semitones`,
              })),
          }))}
        />
      )}
    </div>
  );
}

const middleLayer = (report: ArticulationReport | undefined) => (report?.layers ?? 1) >> 1;

function levelsOf(own: PositionFigures | undefined, layer: number): Series['points'] {
  return (own?.levels ?? [])
    .filter((level) => level.layer === layer)
    .map(({ key, lufs }) => ({ x: key, y: lufs }));
}

/** A fine line for every layer of a contender but the middle one. */
function otherLayers(one: MeasuredContender | undefined, position: string | undefined): Series[] {
  const { report } = one ?? {};
  const own = report?.positions.find(({ id }) => id === position) ?? report?.positions[0];
  return Array.from({ length: report?.layers ?? 0 }, (_, layer) => layer)
    .filter((layer) => layer !== middleLayer(report))
    .map((layer) => ({
      name: `${one?.contender.letter ?? ''}, layer ${layer + 1}`,
      slot: FINE,
      points: levelsOf(own, layer),
    }));
}

/** Whole octaves around the keys that were measured. */
function octaves(list: readonly MeasuredContender[]): { min: number; max: number; step: number } {
  const keys = list.flatMap(({ report }) => (report?.range ? [report.range.low, report.range.high] : []));
  const [low, high] = keys.length > 0 ? [Math.min(...keys), Math.max(...keys)] : [48, 84];
  return { min: 12 * Math.floor(low / 12), max: 12 * Math.ceil(high / 12), step: 12 };
}

/** The curve of the middle key, where the controller rules the layers; else of the velocity. */
function middleCurve<T extends { controller: string }>(curves: readonly T[]): T | undefined {
  const ridden = curves.filter((one) => one.controller === 'dynamics');
  const list = ridden.length > 0 ? ridden : curves;
  return list[list.length >> 1];
}
