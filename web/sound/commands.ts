import { usePerformance } from './performance-state.ts';

/** The transport's commands for what is loaded first; what plays comes after it. */
const transport = () => import('./transport.ts');

/** Plays, or stops what plays or waits to. */
export async function playOrStop(): Promise<void> {
  const { playing, preparing } = usePerformance.getState();
  const { play, stop } = await transport();
  if (playing || preparing) stop();
  else await play();
}

/** Stops what plays or waits to. */
export async function stopPlaying(): Promise<void> {
  const { playing, preparing } = usePerformance.getState();
  if (playing || preparing) (await transport()).stop();
}

/** Moves the resting place, and playing with it. */
export async function goTo(tick: number): Promise<void> {
  (await transport()).locate(tick);
}

/** Turns the loop on or off. */
export async function switchLoop(): Promise<void> {
  (await transport()).toggleLoop();
}

/** Records on the chosen track, or ends a recording. */
export async function recordOrStop(): Promise<void> {
  await (await import('./recorder.ts')).recordOrStop();
}
