import { useRef } from 'react';
import { pitchName } from '#core/music/index.ts';
import {
  chooseLimit,
  LEAST_VOICES,
  MOST_VOICES,
  tryMachine,
  useCapacity,
  voiceLimit,
} from '../sound/capacity.ts';
import { meters, type GivenUpHere } from '../sound/performance-state.ts';
import { CoresChoice } from './cores-choice.tsx';
import { Button } from '../ui/button.tsx';
import { setText, useFrame } from '../ui/use-frame.ts';
import { Typed } from '../ui/typed.tsx';

const time = (at: number) =>
  new Date(at).toLocaleTimeString([], {
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
    hour12: false,
  });

function sentenceOf(count: number, last: GivenUpHere | undefined): string {
  if (count === 0 || !last) return 'None has had to give way.';
  const why =
    last.why === 'machine'
      ? 'more notes sounded than this machine may play; those heard least give way'
      : 'its track had more notes than one track may have; the one heard least gives way';
  const times = count === 1 ? 'One had' : `${count} have had`;
  return `${times} to give way, last ${pitchName(last.key)} of ${last.whose} at ${time(last.at)}: ${why}.`;
}

/** A block of the engine, in seconds. */
const BLOCK_SECONDS = 128 / 48_000;

function latenessOf(blocks: number, at: number): string {
  if (blocks === 0) return 'Everything has come in time.';
  const seconds = (blocks * BLOCK_SECONDS).toFixed(2);
  return `${seconds} s of some tracks came too late and were faded out, last at ${time(at)}: this machine had too much to do. Fewer notes at most, fewer positions or more cores help.`;
}

/** How many notes sound, what had to give way and why, and how many may sound. */
export function OutputHelp() {
  const capacity = useCapacity();
  const limit = voiceLimit(capacity);
  const now = useRef<HTMLSpanElement>(null);
  const gone = useRef<HTMLParagraphElement>(null);
  const late = useRef<HTMLParagraphElement>(null);
  useFrame(() => {
    setText(now.current, String(meters.voices));
    setText(gone.current, sentenceOf(meters.givenUpCount, meters.givenUp));
    setText(late.current, latenessOf(meters.lateBlocks, meters.lateAt));
  });
  const parse = (text: string) => {
    const count = Number(text);
    return Number.isInteger(count) && count >= LEAST_VOICES && count <= MOST_VOICES
      ? count
      : `${LEAST_VOICES} to ${MOST_VOICES}`;
  };
  return (
    <>
      <h2 className="font-serif text-[15px] font-semibold">Notes that sound</h2>
      <dl className="mt-1.5 grid grid-cols-[110px_minmax(0,1fr)] items-baseline gap-y-1">
        <dt className="text-ink-3">Now</dt>
        <dd>
          <span ref={now} className="font-semibold" />
        </dd>
        <dt className="text-ink-3">At most, per core</dt>
        <dd>
          <Typed
            key={limit}
            label="Notes that may sound at once"
            value={String(limit)}
            parse={parse}
            onCommit={chooseLimit}
          />
        </dd>
        <dt className="text-ink-3">Cores</dt>
        <dd>
          <CoresChoice hideLabel />
        </dd>
      </dl>
      <p ref={gone} className="mt-1 text-ink-2" />
      <p ref={late} className="mt-1 text-ink-2" />
      <p className="mt-2 text-xs text-ink-2">
        {capacity.managed === undefined
          ? 'This machine has not been tried yet. '
          : `This machine managed ${capacity.managed} on a core with half of its time to spare. `}
        One core plays your hands and the hall, the others render the cue ahead. The limit holds while you
        play; bounces take the time they need and leave nothing out.
      </p>
      <div className="mt-2 flex flex-wrap gap-2">
        <Button disabled={capacity.trying} onClick={() => void tryMachine()}>
          {capacity.trying ? 'Trying …' : 'Try this machine (2 s)'}
        </Button>
        {capacity.chosen !== undefined && capacity.managed !== undefined && (
          <Button look="quiet" onClick={() => chooseLimit(undefined)}>
            As tried: {capacity.managed}
          </Button>
        )}
      </div>
    </>
  );
}
