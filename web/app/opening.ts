import { toast } from 'sonner';
import { orderedTracks } from '../state/cue.ts';
import { closeDocument, openDocument, useDocuments } from '../state/documents.ts';
import { openOwnHearing } from '../state/own-hearing.ts';
import { loadOverview, useSession } from '../state/session.ts';
import { usePerformance } from '../sound/performance-state.ts';
import { stopPlaying } from '../sound/commands.ts';

const CUE_KEY = 'farlo-cue';
let opening: { cueId: string; done: Promise<void> } | undefined;

function owner(): { userId: string; studioId: string } {
  const { info } = useSession.getState();
  return { userId: info?.user?.id ?? '', studioId: info?.studio?.id ?? '' };
}

/** Opens a cue with its template; remembered for the next visit. Asked for twice it is opened once. */
export function openCue(cueId: string): Promise<void> {
  if (opening?.cueId !== cueId) {
    const done = openNow(cueId).finally(() => {
      if (opening?.done === done) opening = undefined;
    });
    opening = { cueId, done };
  }
  return opening.done;
}

async function openNow(cueId: string): Promise<void> {
  const cue = useSession.getState().overview?.cues.find((candidate) => candidate.id === cueId);
  if (!cue) throw new Error('This cue is not here any more, or belongs to another studio.');
  const { cueId: before } = useDocuments.getState();
  if (before === cueId) return;
  // Play that was pressed before anything was open waits for this very cue.
  if (before !== undefined) await stopPlaying();
  localStorage.setItem(CUE_KEY, cueId);
  await openTemplate(cue.templateId);
  await openDocument('cue', cueId, owner());
}

/** Opens a template, without any cue when the open one is not made in it. */
export async function openTemplate(templateId: string): Promise<void> {
  const { templateId: before } = useDocuments.getState();
  if (before === templateId) return;
  if (before !== undefined) await stopPlaying();
  const { overview } = useSession.getState();
  const cueId = useDocuments.getState().cueId;
  if (overview?.cues.find((cue) => cue.id === cueId)?.templateId !== templateId) closeDocument('cue');
  openOwnHearing(owner().userId, templateId);
  await openDocument('template', templateId, owner());
  const tracks = orderedTracks(useDocuments.getState().records);
  if (tracks.some((track) => track.id === usePerformance.getState().trackId) || !tracks[0]) return;
  // Playing comes after the first scripts.
  const { selectTrack } = await import('../sound/hands.ts');
  selectTrack(tracks[0].id);
}

/** Opens what was open last: the shelf, the house, a cue, its template. @throws RequestFailure */
export async function openStudio(): Promise<void> {
  const { shelfId, houseId, cues, templates } = await loadOverview();
  await Promise.all([openDocument('shelf', shelfId, owner()), openDocument('house', houseId, owner())]);
  if (useDocuments.getState().cueId !== undefined || opening) return;
  const wanted = localStorage.getItem(CUE_KEY);
  const first = cues.find((cue) => cue.id === wanted) ?? cues[0];
  if (first) await openCue(first.id);
  else if (templates[0]) await openTemplate(templates[0].id);
}

/** After documents came or went: what is open and no longer there is closed, and something else is opened. */
export function followDocuments(): void {
  const { overview } = useSession.getState();
  const { cueId, templateId } = useDocuments.getState();
  if (!overview) return;
  if (cueId !== undefined && !overview.cues.some((cue) => cue.id === cueId)) {
    closeDocument('cue');
    toast('The cue that was open has been deleted.');
  }
  if (templateId !== undefined && !overview.templates.some((one) => one.id === templateId))
    closeDocument('template');
}
