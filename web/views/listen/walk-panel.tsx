import { useEffect, useMemo, useState } from 'react';
import { Pause, Play, RotateCcw, SkipBack, SkipForward } from 'lucide-react';
import { articulationWalk, mixOfLevels, positionWalk, type WalkStep } from '#core/listen/index.ts';
import { hear, stopListening, useListening } from '../../sound/listening.ts';
import { prepareRendering, type RenderOrder } from '../../sound/renderings.ts';
import { useRenderings } from '../../sound/renderings-state.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { Notice } from '../../ui/heading.tsx';
import { contenderName, type Contender } from './contenders.ts';
import { useListen } from './listen-state.ts';

const WALK_BPM = 100;
const SOON = 1;

type Kind = 'techniques' | 'positions';

/** A walk through all techniques or positions of one contender; what sounds is named large. */
export function WalkPanel({ contenders }: { contenders: readonly Contender[] }) {
  const chosen = useListen((state) => state.contender);
  const contender = contenders.find((one) => one.id === chosen) ?? contenders[0];
  const [kind, setKind] = useState<Kind>('techniques');
  const instrument = contender?.instrument;
  const technique =
    contender?.articulation ||
    instrument?.articulations.find((one) => one.id === 'long')?.id ||
    instrument?.articulations[0]?.id ||
    '';
  const steps = useMemo(
    () =>
      !instrument
        ? []
        : kind === 'techniques'
          ? articulationWalk(instrument)
          : positionWalk(instrument, technique),
    [instrument, kind, technique],
  );
  if (!contender) return null;
  return (
    <div className="flex min-h-0 flex-1 flex-col px-4 py-3">
      <div className="flex items-center gap-3">
        <Choice
          label="Contender"
          hideLabel
          value={contender.id}
          onChange={(event) => {
            stopListening();
            useListen.setState({ contender: event.target.value });
          }}
          options={contenders.map((one) => ({
            value: one.id,
            text: `${one.letter} · ${contenderName(one)}`,
          }))}
        />
        <div role="group" aria-label="Walk through" className="flex gap-1.5">
          {(['techniques', 'positions'] as const).map((one) => (
            <Button
              key={one}
              pressed={kind === one}
              onClick={() => {
                stopListening();
                setKind(one);
              }}
            >
              {one === 'techniques' ? 'All techniques' : 'All positions'}
            </Button>
          ))}
        </div>
      </div>
      {contender.trouble ? (
        <Notice tone="warm">{contender.trouble}</Notice>
      ) : steps.length === 0 ? (
        <p className="mt-4 text-ink-2">Looking at the instrument …</p>
      ) : (
        <Walk key={`${contender.id} ${kind}`} contender={contender} steps={steps} />
      )}
    </div>
  );
}

function orderOf(contender: Contender, step: WalkStep, index: number): RenderOrder {
  return {
    name: `walk ${contender.instrumentId} ${index} ${step.articulation} ${step.name} ${step.about} ${JSON.stringify(step.levels)} ${JSON.stringify(step.hall ?? null)}`,
    instrumentId: contender.instrumentId,
    articulation: step.articulation,
    phrase: step.phrase,
    bpm: WALK_BPM,
    mix: mixOfLevels(step.levels, step.hall?.sendDb),
    ...(step.hall ? { hall: step.hall.mix } : {}),
  };
}

function Walk({ contender, steps }: { contender: Contender; steps: readonly WalkStep[] }) {
  const [at, setAt] = useState(0);
  const [going, setGoing] = useState(false);
  /** Frame at which it was paused. */
  const [rest, setRest] = useState(0);
  const orders = useMemo(() => steps.map((step, i) => orderOf(contender, step, i)), [contender, steps]);
  const trouble = useListening((state) => state.trouble);
  const state = useRenderings((all) => all.states[orders[at].name]);
  useEffect(() => () => void stopListening(), []);

  const go = (to: number, place = 0) => {
    const index = Math.min(steps.length - 1, Math.max(0, to));
    setAt(index);
    setGoing(true);
    setRest(0);
    void hear([orders[index]], 0, {
      matched: false,
      place,
      onEnd: () => (index + 1 < steps.length ? go(index + 1) : setGoing(false)),
    });
    if (orders[index + 1]) prepareRendering(orders[index + 1], SOON);
  };
  const pause = () => {
    setRest(stopListening());
    setGoing(false);
  };
  const step = steps[at];
  const stuck = trouble?.name === orders[at].name ? trouble.sentence : undefined;
  return (
    <>
      <div className="flex flex-col items-center gap-1 py-7 text-center" aria-live="polite">
        <div className="text-ink-3">
          {at + 1} of {steps.length} · {step.about}
          {going && state?.kind !== 'ready' ? ' · on its way …' : ''}
        </div>
        <div className={`font-serif text-[44px] leading-tight ${going ? 'text-ink' : 'text-ink-3'} italic`}>
          {step.name}
        </div>
        {stuck && <Notice tone="warm">{stuck} Skip it, or try again.</Notice>}
      </div>
      <div role="group" aria-label="Walk" className="flex justify-center gap-2">
        <Button disabled={at === 0} onClick={() => go(at - 1)}>
          <SkipBack size={13} aria-hidden /> Back
        </Button>
        {going ? (
          <Button look="main" className="w-28" onClick={pause}>
            <Pause size={13} aria-hidden /> Pause
          </Button>
        ) : (
          <Button look="main" className="w-28" onClick={() => go(at, rest)}>
            <Play size={13} aria-hidden /> {rest > 0 || at > 0 ? 'Go on' : 'Begin'}
          </Button>
        )}
        <Button onClick={() => go(at)}>
          <RotateCcw size={13} aria-hidden /> Repeat
        </Button>
        <Button disabled={at + 1 >= steps.length} onClick={() => go(at + 1)}>
          <SkipForward size={13} aria-hidden /> Skip
        </Button>
      </div>
      <ol aria-label="Steps" className="mt-5 min-h-0 flex-1 columns-3 gap-4 overflow-auto">
        {steps.map((one, i) => (
          <li key={orders[i].name} className="break-inside-avoid">
            <button
              type="button"
              aria-current={i === at ? 'step' : undefined}
              onClick={() => go(i)}
              className={`flex min-h-6 w-full items-baseline gap-2 px-1.5 text-left hover:text-cool ${i === at ? 'bg-cool-tint font-semibold' : ''}`}
            >
              <span className="w-5 text-right text-xs text-ink-3">{i + 1}</span>
              <span className="truncate font-serif italic">{one.name}</span>
              <span className="truncate text-xs text-ink-3">{one.about}</span>
            </button>
          </li>
        ))}
      </ol>
    </>
  );
}
