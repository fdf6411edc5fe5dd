import type { Plan } from '#core/performance/index.ts';
import { isSwitchedOff, loadArticulations, useInstruments, wantOnce } from './instruments.ts';
import { usePerformance } from './performance-state.ts';

const used = new WeakMap<Plan, ReadonlySet<string>>();

/** Articulations that a plan plays; what is switched off aside. */
export function playedBy(plan: Plan): ReadonlySet<string> {
  const { id, articulations } = plan.context.instrument;
  let all = used.get(plan);
  if (!all) {
    const indices = new Set<number>();
    // Twenty thousand segments in a moment: nothing is made for each.
    for (const { sounds } of plan.segments) for (const { articulation } of sounds) indices.add(articulation);
    used.set(plan, (all = new Set([...indices].map((index) => articulations[index].id))));
  }
  return new Set([...all].filter((one) => !isSwitchedOff(id, one)));
}

/** Articulations that a plan plays and that are neither here nor on their way. */
export function missingOf(plan: Plan): ReadonlySet<string> {
  const wanted = useInstruments.getState().loads[plan.context.instrument.id]?.wanted;
  return new Set([...playedBy(plan)].filter((one) => !wanted?.has(one)));
}

/** Loads what plans play and was let go. */
export function loadPlanned(): void {
  for (const plan of Object.values(usePerformance.getState().plans)) {
    const missing = missingOf(plan);
    // What cannot be loaded is told by the instrument.
    if (missing.size > 0) void loadArticulations(plan.context.instrument, missing).catch(() => undefined);
  }
}

/** Going through a whole plan takes time that an edit does not have: what it newly plays is asked for when there are no more edits. */
const WANT_AFTER_MS = 250;
let wantTimer: ReturnType<typeof setTimeout> | undefined;

/** Asks for what plans play by then, as soon as edits have come to rest. */
export function wantSoon(): void {
  clearTimeout(wantTimer);
  wantTimer = setTimeout(() => {
    for (const plan of Object.values(usePerformance.getState().plans))
      void wantOnce(plan.context.instrument, playedBy(plan));
  }, WANT_AFTER_MS);
}
