import { type Fault, judge, seededLibrary } from '#core/testing/library/index.ts';
import { measuredByTheUsersRoad } from './seeded-report.ts';

/** Run by `scripts/faults.mjs`: a line for every seed, what was missed and invented below it, and a table over kinds of faults. */
const [from, seeds, planted] = process.argv.slice(2).map(Number);
const told = new Map<Fault['kind'], { planted: number; found: number }>();
let invented = 0;
for (let seed = from; seed < from + seeds; seed++) {
  const library = seededLibrary(seed, planted);
  const { findings } = await measuredByTheUsersRoad(library);
  const verdict = judge(findings, library.faults);
  invented += verdict.false.length;
  for (const fault of library.faults) {
    const line = told.get(fault.kind) ?? { planted: 0, found: 0 };
    line.planted++;
    if (verdict.found.includes(fault)) line.found++;
    told.set(fault.kind, line);
  }
  const road = library.pattern === undefined ? 'SFZ' : 'names';
  console.log(
    `seed ${seed}, ${library.timbre}, ${library.rate} Hz, ${road}: ${verdict.found.length} of ${library.faults.length} found, ${verdict.false.length} invented`,
  );
  for (const fault of verdict.missed) console.log(`  missed   ${JSON.stringify(fault)}`);
  for (const { sentence } of verdict.false) console.log(`  invented ${sentence}`);
}
console.table([...told].map(([kind, { planted: count, found }]) => ({ kind, planted: count, found })));
console.log(`${invented} invented in ${seeds} libraries`);
