import { useEffect, useRef, useState } from 'react';
import { Play, Square } from 'lucide-react';
import { toast } from 'sonner';

/** The one that sounds: another one that begins ends it. */
let ending: (() => void) | undefined;

/** Hears a recording of what is about to be taken in, as it is in the files. */
export function HearSample({ importId, sample, name }: { importId: string; sample: string; name: string }) {
  const [plays, setPlays] = useState(false);
  const audio = useRef<HTMLAudioElement>(undefined);
  const stop = () => {
    audio.current?.pause();
    audio.current = undefined;
    setPlays(false);
  };
  useEffect(() => stop, []);
  const play = () => {
    ending?.();
    const own = new Audio(`/api/imports/${importId}/hear?sample=${encodeURIComponent(sample)}`);
    audio.current = own;
    ending = stop;
    own.onended = stop;
    setPlays(true);
    own.play().catch(() => {
      // Stopped before it began is no trouble.
      if (audio.current !== own) return;
      stop();
      toast.error(`${name} cannot be heard: its recording could not be read.`);
    });
  };
  return (
    <button
      type="button"
      aria-label={plays ? `Stop ${name}` : `Hear ${name}`}
      title="Hear a recording of it"
      onClick={plays ? stop : play}
      className="grid size-6 shrink-0 place-items-center text-ink-2 hover:text-cool"
    >
      {plays ? <Square size={11} aria-hidden /> : <Play size={11} aria-hidden />}
    </button>
  );
}
