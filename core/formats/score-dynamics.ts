import { CONTROLLER, DYNAMICS, type CurvePoint } from '../music/index.ts';

/** A dynamic that holds from a tick on, 0…127. */
export interface DynamicAt {
  tick: number;
  value: number;
}

/** A hairpin as it is read. */
export interface WedgeAt {
  startTick: number;
  endTick: number;
  opens: boolean;
}

/** Middle of what a dynamic takes of the controller's range. */
const middleOf = (name: string) =>
  Math.round(((DYNAMICS.indexOf(name as (typeof DYNAMICS)[number]) + 0.5) * 128) / DYNAMICS.length);
const [SOFTEST, LOUDEST] = [4, 124];
/** Those with a suddenness of their own: what they fall back to behind it. */
const SUDDEN: Readonly<Record<string, readonly [at: string, then: string]>> = {
  fp: ['f', 'p'],
  sfp: ['f', 'p'],
  sfpp: ['f', 'pp'],
  pf: ['p', 'f'],
};
const SUDDEN_TICKS = 240;

/** What a dynamic by its name asks for, from a tick on; empty for one that only accents a note. */
export function dynamicsOf(name: string, tick: number): DynamicAt[] {
  const sudden = SUDDEN[name];
  if (sudden)
    return [
      { tick, value: middleOf(sudden[0]) },
      { tick: tick + SUDDEN_TICKS, value: middleOf(sudden[1]) },
    ];
  if ((DYNAMICS as readonly string[]).includes(name)) return [{ tick, value: middleOf(name) }];
  if (/^p{3,}$|^n$/.test(name)) return [{ tick, value: SOFTEST }];
  if (/^f{3,}$/.test(name)) return [{ tick, value: LOUDEST }];
  return [];
}

/** A dynamic this near to the end of a hairpin says where it leads. */
const NEAR_TICKS = 960;
/** One that leads nowhere goes one dynamic further. */
const ONE = 128 / DYNAMICS.length;

const bounded = (value: number) => Math.min(LOUDEST, Math.max(SOFTEST, Math.round(value)));

/** The curve that dynamics and hairpins draw: a step where one stands alone, a line along a hairpin to the dynamic at its end. */
export function dynamicsCurve(
  marks: readonly DynamicAt[],
  wedges: readonly WedgeAt[],
  rest: number,
): Omit<CurvePoint, 'id'>[] {
  const points: Omit<CurvePoint, 'id'>[] = [];
  const put = (tick: number, value: number) => {
    const last = points.at(-1);
    if (last && last.tick >= tick) last.value = last.tick === tick ? value : last.value;
    else points.push({ controller: CONTROLLER.dynamics, tick, value });
  };
  let value: number | undefined;
  const step = (mark: DynamicAt) => {
    if (value !== undefined && value !== mark.value && mark.tick > 0) put(mark.tick - 1, value);
    if (value !== mark.value) put(mark.tick, mark.value);
    value = mark.value;
  };
  const waiting = [...marks].sort((a, b) => a.tick - b.tick);
  for (const { startTick, endTick, opens } of [...wedges].sort((a, b) => a.startTick - b.startTick)) {
    while (waiting.length > 0 && waiting[0].tick <= startTick) step(waiting.shift() as DynamicAt);
    // What stands within it is passed over for the one at its end.
    while (waiting.length > 1 && waiting[1].tick <= endTick) waiting.shift();
    const at = waiting.at(0);
    const near = at && at.tick <= endTick + NEAR_TICKS ? at.value : undefined;
    const way = opens ? ONE : -ONE;
    // Where nothing was said before, it comes from one dynamic off.
    const from = value ?? (near === undefined ? rest : bounded(near - way));
    const leads = near !== undefined && (opens ? near > from : near < from);
    const to = leads ? near : bounded(from + way);
    if (at && at.tick <= endTick) waiting.shift();
    put(startTick, from);
    value = to;
    put(Math.max(endTick, startTick + 1), value);
  }
  for (const mark of waiting) step(mark);
  return points;
}
