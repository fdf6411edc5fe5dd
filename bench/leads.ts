// When notes speak, as the tests' own ears hear them: one row for each instrument and technique of the demo, close position
// without hall. usage: node --import tsx bench/leads.ts [INSTRUMENT …]
import { DEMO_LIBRARIES } from '#core/recording/index.ts';
import { articulationTerm } from '#core/catalogue/index.ts';
import { played, quantile } from '#core/testing/lines.ts';
import { PowerTape } from '#core/testing/ear/k-level.ts';
import { recorded } from '#core/testing/recorded.ts';

const names = process.argv.slice(2);
const GAP_SECONDS = 2;
const DYNAMICS = [20, 70, 115];

console.log('instrument        technique              notes  median  p95 of |late|  beyond 12 ms  worst');
for (const library of DEMO_LIBRARIES)
  for (const plan of library.instruments) {
    if (names.length > 0 && !names.includes(plan.name)) continue;
    for (const technique of plan.techniques) {
      if (technique.moves || !technique.notes) continue;
      const sounding = recorded(
        plan,
        library.hall,
        (order) => order.technique === technique.id && order.slot === 'note',
      );
      const [articulation] = sounding.instrument.articulations;
      if (!articulation) continue;
      const { group } = articulationTerm(articulation.id);
      const keys = [0.15, 0.35, 0.5, 0.65, 0.85].map((share) =>
        Math.round(plan.low + share * (plan.high - plan.low)),
      );
      const lates: number[] = [];
      for (const dynamics of DYNAMICS) {
        const notes = keys.map((key, i) => ({
          id: `${key}`,
          startTick: 960 * (1 + GAP_SECONDS * i),
          endTick: 960 * (1 + GAP_SECONDS * i + 1),
          key,
          velocity: dynamics,
        }));
        const {
          left,
          right,
          plan: made,
        } = played(
          sounding,
          {
            notes,
            marks: [],
            points: [
              { id: 'd', controller: 1, tick: 0, value: dynamics },
              { id: 'v', controller: 77, tick: 0, value: 40 },
            ],
          },
          articulation.id,
        );
        void made;
        const tape = new PowerTape([left, right]);
        keys.forEach((_, i) => {
          const beat = 1 + GAP_SECONDS * i;
          const told = tape.speaks(beat - 0.35, beat + 0.4, Math.max(-100, tape.db(beat - 0.6, beat - 0.4)));
          if (told !== undefined) lates.push((told - beat) * 1000);
        });
      }
      if (lates.length === 0) continue;
      const far = lates.map(Math.abs);
      console.log(
        plan.name.padEnd(17),
        articulation.id.padEnd(20),
        group.padEnd(8),
        String(lates.length).padStart(3),
        quantile(lates, 0.5).toFixed(1).padStart(7),
        quantile(far, 0.95).toFixed(1).padStart(10),
        String(far.filter((one) => one > 12).length).padStart(8),
        Math.max(...far)
          .toFixed(1)
          .padStart(12),
      );
    }
  }
