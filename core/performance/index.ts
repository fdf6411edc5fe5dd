/** From written parts and played keys to timed sounds: transitions, leads, takes, findings. */
export * from './leads.ts';
export * from './planned.ts';
export * from './plan.ts';
export * from './plan-summary.ts';
export * from './takes.ts';
export { curveSteps, planEndSeconds, toEvents } from './to-events.ts';
export * from './clicks.ts';
export * from './feed.ts';
export * from './live.ts';
export * from './live-queue.ts';
export { zoneGain } from './heard.ts';
export { blendOf } from './levels.ts';
export type { Touch } from './touch.ts';
