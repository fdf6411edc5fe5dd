// Holes, bumps and landings of connected lines, as the tests' own ears hear them: one row for each instrument, dynamics and
// speed, or with --each one for every interval too. usage: node --import tsx bench/connected.ts [INSTRUMENT …] [--quick] [--each]
import { DEMO_LIBRARIES } from '#core/recording/index.ts';
import { landingsOf, quantile, restless, type Landing, type LineOrder } from '#core/testing/lines.ts';
import { recorded } from '#core/testing/recorded.ts';

const quick = process.argv.includes('--quick');
const each = process.argv.includes('--each');
const names = process.argv.slice(2).filter((arg) => !arg.startsWith('--'));
/** Seconds of a note: quarters at 50, 100 and 180 beats a minute, sixteenths at 140. */
const SPEEDS = quick ? [0.6, 0.107] : [1.2, 0.6, 0.333, 0.107];
const DYNAMICS = quick ? [74] : [13, 74, 117];
const INTERVALS = quick ? [1, 2, 4, 5, 7, 12] : [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12];

interface Heard {
  landings: Landing[];
  rest: { low: number; high: number }[];
}

const columns = [
  'instrument',
  'interval',
  'dynamics',
  'note ms',
  'low med',
  'low 5 %',
  'low worst',
  'high med',
  'high 95 %',
  'late med',
  'in time %',
  'not told',
  'behind med',
  'behind 90 %',
];
console.log(columns.join(','));

const fixed = (value: number) => (Number.isFinite(value) ? value.toFixed(1) : '');
/** All levels are differences from what held tones of the same line do by themselves. */
function print(title: readonly (string | number)[], { landings, rest }: Heard, withinMs: number): void {
  const lows = landings.map(({ low }) => low);
  const highs = landings.map(({ high }) => high);
  const restLows = rest.map(({ low }) => low);
  const restHighs = rest.map(({ high }) => high);
  const lates = landings.flatMap(({ late }) => late ?? []);
  const behinds = landings.flatMap(({ behind }) => behind ?? []);
  const intime = lates.filter((late) => Math.abs(late) <= withinMs).length / landings.length;
  const values = [
    quantile(lows, 0.5) - quantile(restLows, 0.5),
    quantile(lows, 0.05) - quantile(restLows, 0.05),
    Math.min(...lows) - Math.min(...restLows),
    quantile(highs, 0.5) - quantile(restHighs, 0.5),
    quantile(highs, 0.95) - quantile(restHighs, 0.95),
    quantile(lates, 0.5),
    intime * 100,
    landings.length - lates.length,
    quantile(behinds, 0.5),
    quantile(behinds, 0.9),
  ];
  console.log([...title, ...values.map(fixed)].join(','));
}

for (const library of DEMO_LIBRARIES)
  for (const plan of library.instruments) {
    if (!plan.techniques.some(({ id }) => id === 'connected')) continue;
    if (names.length > 0 && !names.includes(plan.name)) continue;
    const sounding = recorded(plan, library.hall, ({ technique }) =>
      ['connected', 'long', 'runs'].includes(technique),
    );
    const within = plan.playerCount > 1 ? 12 : 5;
    const middle = Math.round((plan.low + plan.high) / 2);
    for (const dynamics of DYNAMICS)
      for (const noteSeconds of SPEEDS) {
        const all: Heard = { landings: [], rest: [] };
        for (const interval of INTERVALS) {
          // To and fro: one line goes over the interval both ways.
          const order: LineOrder = {
            low: middle - (interval >> 1),
            interval,
            noteSeconds,
            dynamics,
            notes: 5,
          };
          const heard = { landings: landingsOf(sounding, order), rest: restless(sounding, order) };
          if (each)
            for (const up of [true, false]) {
              const landings = heard.landings.filter((one) => one.key > one.fromKey === up);
              print(
                [plan.name, up ? interval : -interval, dynamics, noteSeconds * 1000],
                { ...heard, landings },
                within,
              );
            }
          all.landings.push(...heard.landings);
          all.rest.push(...heard.rest);
        }
        print([plan.name, 'all', dynamics, noteSeconds * 1000], all, within);
      }
  }
