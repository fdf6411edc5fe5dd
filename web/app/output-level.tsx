import { lazy, Suspense, useRef } from 'react';
import { Popover as Radix } from 'radix-ui';
import { meters } from '../sound/performance-state.ts';
import { setStyle, setText, useFrame } from '../ui/use-frame.ts';

const OutputHelp = lazy(async () => ({ default: (await import('./output-help.tsx')).OutputHelp }));

/** Loudness of what is heard; pressed, how many notes sound and may sound on this machine. */
export function OutputLevel() {
  const text = useRef<HTMLSpanElement>(null);
  const bar = useRef<HTMLSpanElement>(null);
  useFrame(() => {
    const level = meters.momentary;
    setText(text.current, level > -90 ? `${level.toFixed(1).replace('-', '−')} LUFS` : '–');
    setStyle(bar.current, 'width', `${Math.min(100, Math.max(0, ((level + 60) / 60) * 100))}%`);
  });
  return (
    <Radix.Root>
      <Radix.Trigger
        className="w-[112px] shrink-0 text-left text-xs max-[1100px]:w-[96px]"
        title="Loudness of the last 0.4 seconds (ITU-R BS.1770); the red tick is −23 LUFS. Press for notes and the machine’s limit."
      >
        <span className="flex justify-between text-ink-3">
          <span>Output</span>
          <span ref={text} className="text-ink" />
        </span>
        <span className="relative mt-1 block h-[3px] bg-rule-soft">
          <span ref={bar} className="block h-full bg-ink-3" />
          <span
            className="absolute -top-[2px] h-[7px] w-px bg-warm"
            style={{ left: `${((60 - 23) / 60) * 100}%` }}
          />
        </span>
      </Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          align="end"
          sideOffset={6}
          collisionPadding={8}
          aria-label="Notes and machine"
          className="z-30 w-[360px] max-w-[96vw] rounded-md border border-rule bg-raised p-3.5"
        >
          <Suspense>
            <OutputHelp />
          </Suspense>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
