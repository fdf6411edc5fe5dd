import { useEffect, useState } from 'react';
import { useLocation, useNavigate, useParams } from 'react-router';
import { openCue } from '../../app/opening.ts';
import { selectTrack } from '../../sound/hands.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { itemOf, useDocuments } from '../../state/documents.ts';
import { useSession } from '../../state/session.ts';
import { TAB } from '../../state/tab.ts';

/**
 * Whether the page still is at a cue, or at none. Whoever has just gone to another view or chosen another cue is not to be fetched back by
 * an address that follows late: the window has the new one before it is drawn.
 */
function isStillAt(cueId: string | undefined): boolean {
  const [view = '', there, ...rest] = window.location.pathname.split('/').slice(1);
  if (cueId === undefined) return (view === '' || view === 'cue') && !there && rest.length === 0;
  return view === 'cue' && there === cueId;
}

/**
 * Keeps the page's address and what is open in step: a link opens its cue and track, and choosing another track is
 * seen in the address. @returns why the addressed cue cannot be opened
 */
export function useCueAddress(): string | undefined {
  const { cueId: wanted, trackId: wantedTrack } = useParams();
  const navigate = useNavigate();
  // An address that this page has written itself follows what is chosen, late on a busy machine: it chooses nothing.
  const own = (useLocation().state as { by?: string } | null)?.by === TAB;
  const cueId = useDocuments((state) => state.cueId);
  const ready = useSession((state) => state.overview !== undefined);
  const trackId = usePerformance((state) => state.trackId);
  const [trouble, setTrouble] = useState<{ cueId: string; sentence: string }>();

  useEffect(() => {
    // Only another address opens another cue; what opens by other ways changes the address.
    if (!ready || wanted === undefined || wanted === useDocuments.getState().cueId) return;
    openCue(wanted).catch((error: Error) => setTrouble({ cueId: wanted, sentence: error.message }));
  }, [wanted, ready]);

  // Without a cue in the address it is that of the open one.
  useEffect(() => {
    if (wanted === undefined && cueId !== undefined && isStillAt(undefined))
      void navigate(`/cue/${cueId}`, { replace: true });
  }, [wanted, cueId, navigate]);

  useEffect(() => {
    if (own || wantedTrack === undefined || wanted !== cueId) return;
    const { records } = useDocuments.getState();
    if (itemOf(records, 'track', wantedTrack) && usePerformance.getState().trackId !== wantedTrack)
      selectTrack(wantedTrack);
  }, [own, wantedTrack, wanted, cueId]);

  useEffect(() => {
    // The effect before may just have chosen the addressed track: what is chosen now counts.
    const chosen = usePerformance.getState().trackId;
    if (
      cueId !== undefined &&
      wanted === cueId &&
      chosen !== undefined &&
      chosen !== wantedTrack &&
      isStillAt(cueId)
    )
      void navigate(`/cue/${cueId}/${chosen}`, { replace: true, state: { by: TAB } });
  }, [trackId, cueId, wanted, wantedTrack, navigate]);
  return trouble?.cueId === wanted ? trouble?.sentence : undefined;
}
