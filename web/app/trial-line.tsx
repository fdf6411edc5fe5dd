import { toast } from 'sonner';
import { endTrial, keepTrial } from '../sound/trial.ts';
import { usePerformance } from '../sound/performance-state.ts';
import { useItem } from '../state/documents.ts';
import { useOwned } from '../state/libraries.ts';
import { useMayEdit } from '../state/session.ts';
import { Button } from '../ui/button.tsx';

/** Says, in every view, that a sound is tried in the cue, and leads back in one press. */
export function TrialLine() {
  const trial = usePerformance((state) => state.trial);
  const track = useItem('track', trial?.trackId);
  const owned = useOwned(trial?.instrumentId);
  const mayEdit = useMayEdit();
  if (!trial || !track) return null;
  const trim = `${trial.trimDb < 0 ? '−' : '+'}${Math.abs(trial.trimDb).toFixed(1)} dB`;
  return (
    <div role="status" className="flex items-center gap-3 border-b border-straw bg-straw-tint px-3 py-1">
      <span className="min-w-0 flex-1 truncate">
        Trying <b>{owned?.instrument.name}</b> ({owned?.library.name}) on {track.name}, {trim} to be as loud.
      </span>
      <Button className="py-0" onClick={endTrial}>
        Back
      </Button>
      <Button
        look="main"
        className="py-0"
        disabled={!mayEdit}
        onClick={() => void keepTrial().catch((error: Error) => toast.error(error.message))}
      >
        Keep it
      </Button>
    </div>
  );
}
