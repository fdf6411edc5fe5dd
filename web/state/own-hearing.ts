import { create } from 'zustand';
import type { OwnHearing } from '#core/mixing/index.ts';

/** What this person mutes and hears alone while working: kept in this browser, told to nobody. */
export const useOwnHearing = create<OwnHearing>(() => ({ muted: new Set(), soloed: new Set() }));

let key: string | undefined;

/** Takes up what a person muted and heard alone in a template when they last worked in it. */
export function openOwnHearing(userId: string, templateId: string): void {
  key = `farlo-hearing-${userId}-${templateId}`;
  let kept: { muted?: unknown; soloed?: unknown } = {};
  try {
    kept = (JSON.parse(localStorage.getItem(key) ?? '{}') ?? {}) as typeof kept;
  } catch {
    // Something else wrote there; nothing is muted then.
  }
  const ids = (list: unknown) =>
    new Set(Array.isArray(list) ? list.filter((id) => typeof id === 'string') : []);
  useOwnHearing.setState({ muted: ids(kept.muted), soloed: ids(kept.soloed) });
}

/** Mutes a track for oneself or hears it alone, or takes that back. */
export function toggleOwnHearing(what: 'muted' | 'soloed', trackId: string): void {
  const next = new Set(useOwnHearing.getState()[what]);
  if (!next.delete(trackId)) next.add(trackId);
  useOwnHearing.setState({ [what]: next });
  keep();
}

/** Mutes several tracks for oneself or hears them alone; where all of them are so already, none is any more. */
export function toggleGroupHearing(what: 'muted' | 'soloed', trackIds: readonly string[]): void {
  const next = new Set(useOwnHearing.getState()[what]);
  const isOff = trackIds.every((id) => next.has(id));
  for (const id of trackIds)
    if (isOff) next.delete(id);
    else next.add(id);
  useOwnHearing.setState({ [what]: next });
  keep();
}

/** Hears one kind of positions alone, of all tracks, or no longer; until the page is left. */
export function togglePositionAlone(positionId: string): void {
  const positions = new Set(useOwnHearing.getState().positions);
  if (!positions.delete(positionId)) positions.add(positionId);
  useOwnHearing.setState({ positions });
}

/** Hears one position of one track alone, or everything again when it is the one that is heard. */
export function toggleCellAlone(trackId: string, positionId: string): void {
  const isAlone = isCellAlone(useOwnHearing.getState(), trackId, positionId);
  useOwnHearing.setState({
    soloed: new Set(isAlone ? [] : [trackId]),
    positions: new Set(isAlone ? [] : [positionId]),
  });
  keep();
}

/** Whether one position of one track is heard alone. */
export function isCellAlone({ soloed, positions }: OwnHearing, trackId: string, positionId: string): boolean {
  return soloed.size === 1 && soloed.has(trackId) && positions?.size === 1 && positions.has(positionId);
}

/** Hears everything again. */
export function clearOwnHearing(): void {
  useOwnHearing.setState({ muted: new Set(), soloed: new Set(), positions: new Set() });
  keep();
}

/** Hears everything louder or softer, until the page is left; kept nowhere. */
export function trimOwnHearing(trimDb: number): void {
  if (useOwnHearing.getState().trimDb !== trimDb) useOwnHearing.setState({ trimDb });
}

function keep(): void {
  const { muted, soloed } = useOwnHearing.getState();
  if (key) localStorage.setItem(key, JSON.stringify({ muted: [...muted], soloed: [...soloed] }));
}
