// Holes, bumps and landings of connected lines, as the tests' own ears hear them: one row for each instrument, interval,
// dynamics and speed. usage: node --import tsx bench/connected.ts [INSTRUMENT …] [--quick]
import { DEMO_LIBRARIES } from '#core/recording/index.ts';
import { landingsOf, quantile, restless, type LineOrder } from '#core/testing/lines.ts';
import { recorded } from '#core/testing/recorded.ts';

const quick = process.argv.includes('--quick');
const names = process.argv.slice(2).filter((arg) => !arg.startsWith('--'));
const SPEEDS = quick ? [0.6] : [1.2, 0.6, 0.333, 0.107];
const DYNAMICS = quick ? [74] : [13, 74, 117];
const INTERVALS = quick
  ? [1, -2, 4, -5, 7, 12]
  : [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12].flatMap((i) => [i, -i]);

const fixed = (value: number | undefined, digits = 1) =>
  value === undefined || Number.isNaN(value) ? '   –' : value.toFixed(digits).padStart(5);
console.log(
  'instrument        d   note ms  low med/p95/worst   high med/p95   late med  in time   behind med',
);
for (const library of DEMO_LIBRARIES)
  for (const plan of library.instruments) {
    if (!plan.techniques.some(({ id }) => id === 'connected')) continue;
    if (names.length > 0 && !names.includes(plan.name)) continue;
    const sounding = recorded(
      plan,
      library.hall,
      (o) => o.technique === 'connected' || o.technique === 'long' || o.technique === 'runs',
    );
    const within = plan.playerCount > 1 ? 12 : 5;
    const middle = Math.round((plan.low + plan.high) / 2);
    for (const dynamics of DYNAMICS)
      for (const noteSeconds of SPEEDS) {
        const lows: number[] = [],
          highs: number[] = [],
          lates: number[] = [],
          behinds: number[] = [];
        const restLow: number[] = [],
          restHigh: number[] = [];
        for (const interval of INTERVALS) {
          const low = interval > 0 ? middle - 6 : middle + 6;
          const order: LineOrder = { low, interval, noteSeconds, dynamics, notes: quick ? 5 : 5 };
          const rest = restless(sounding, order);
          restLow.push(...rest.map((one) => one.low));
          restHigh.push(...rest.map((one) => one.high));
          const all = landingsOf(sounding, order);
          if (process.argv.includes('--each'))
            console.log(
              interval,
              all
                .map(
                  (l) =>
                    `${l.fromKey}>${l.key} ${fixed(l.low)} ${fixed(l.high)} ${fixed(l.late)} ${fixed(l.behind)}`,
                )
                .join(' | '),
            );
          lows.push(...all.map((one) => one.low));
          highs.push(...all.map((one) => one.high));
          lates.push(...all.flatMap((one) => one.late ?? []));
          behinds.push(...all.flatMap((one) => one.behind ?? []));
        }
        const intime = lates.filter((late) => Math.abs(late) <= within).length / lates.length;
        console.log(
          [
            plan.name.padEnd(14),
            String(dynamics).padStart(4),
            (noteSeconds * 1000).toFixed(0).padStart(8),
            `${fixed(quantile(lows, 0.5) - quantile(restLow, 0.5))} ${fixed(quantile(lows, 0.05) - quantile(restLow, 0.05))} ${fixed(Math.min(...lows) - Math.min(...restLow))}`,
            `${fixed(quantile(highs, 0.5) - quantile(restHigh, 0.5))} ${fixed(quantile(highs, 0.95) - quantile(restHigh, 0.95))}`,
            fixed(quantile(lates, 0.5)),
            `${(intime * 100).toFixed(0)} %`,
            fixed(quantile(behinds, 0.5)),
            fixed(quantile(behinds, 0.9)),
            `rest ${fixed(quantile(restLow, 0.5))} ${fixed(quantile(restHigh, 0.5))}`,
          ].join('  '),
        );
      }
  }
