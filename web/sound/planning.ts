import { planSteps, type Plan, type PlanContext } from '#core/performance/index.ts';
import type { Part } from '#core/music/index.ts';
import { orderedTracks, partOf, tempoOf } from '../state/cue.ts';
import { useDocuments } from '../state/documents.ts';
import { needArticulation } from './hands.ts';
import { useInstruments } from './instruments.ts';
import { AS_WRITTEN, soundOf } from './mixes.ts';
import { usePerformance } from './performance-state.ts';
import { replan } from './transport.ts';

/** Longest that recordings are measured before the page is let do other things. */
const SLICE_MS = 8;

/** Counts the calls: a later one takes the place of one that is still under way. */
let turn = 0;
/** What a call that was given up had planned by then, by track. */
const begun = new Map<string, Plan>();

/** Plans a part in slices. @returns undefined when a later call has taken its place */
async function planInSlices(
  trackId: string,
  part: Part,
  context: PlanContext,
  known: Plan | undefined,
  mine: number,
): Promise<Plan | undefined> {
  const steps = planSteps(part, context, known, begun.get(trackId));
  let since = performance.now();
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
    begun.set(trackId, step.value);
    if (performance.now() - since < SLICE_MS) continue;
    await new Promise((resolve) => setTimeout(resolve));
    if (mine !== turn) return undefined;
    since = performance.now();
  }
}

/** Plans every part anew where something changed, and lets what plays go on with it. */
export async function planAll(): Promise<void> {
  const mine = ++turn;
  const { records } = useDocuments.getState();
  const { loads } = useInstruments.getState();
  const tempo = tempoOf(records);
  const plans: Record<string, Plan> = {};
  const before = usePerformance.getState().plans;
  for (const track of orderedTracks(records)) {
    // What a person mutes for themselves is planned all the same: it takes no time when it is heard again.
    const sound = soundOf(records, track, AS_WRITTEN);
    const load = sound.instrumentId ? loads[sound.instrumentId] : undefined;
    if (!load) continue;
    const context = {
      tempo,
      instrument: load.instrument,
      mix: sound.mix,
      mode: track.mode,
      articulation: sound.articulation,
      audio: load.complete ? load.audio : undefined,
    };
    const { part } = partOf(records, track.id);
    const known = before[track.id];
    if (known?.part.marks !== part.marks || known.context.instrument !== load.instrument)
      for (const { articulation } of part.marks)
        if (load.complete && load.instrument.articulations.some((one) => one.id === articulation))
          needArticulation(load.instrument.id, articulation);
    const same =
      known &&
      known.part === part &&
      (Object.keys(context) as (keyof typeof context)[]).every(
        (name) => known.context[name] === context[name],
      );
    const plan = same ? known : await planInSlices(track.id, part, context, known, mine);
    if (!plan) return;
    plans[track.id] = plan;
  }
  begun.clear();
  const ids = Object.keys(plans);
  if (ids.length === Object.keys(before).length && ids.every((id) => plans[id] === before[id])) return;
  usePerformance.setState({ plans });
  replan();
}
