import { playableRange } from '#core/catalogue/index.ts';
import { HEAR_BPM, mixOfLevels, plainLevels, writeHearing } from '#core/listen/index.ts';
import type { HearIt } from '#core/report/index.ts';
import { hear, stopListening, useListening } from '../../../sound/listening.ts';
import type { RenderOrder } from '../../../sound/renderings.ts';
import type { Contender } from '../contenders.ts';

/** Name of the rendering that lets something be heard. */
export function hearingName({ instrumentId }: Contender, it: HearIt): string {
  return `hear ${instrumentId} ${JSON.stringify(it)}`;
}

/** Plays what a figure or finding speaks of, or ends it when it sounds. */
export function toggleHearing(contender: Contender, it: HearIt): void {
  const { instrument } = contender;
  const name = hearingName(contender, it);
  const { sounding, waiting } = useListening.getState();
  if (sounding === name || waiting === name) {
    stopListening();
    return;
  }
  const articulation = instrument?.articulations.find((one) => one.id === it.articulation);
  const range = articulation && playableRange(articulation);
  if (!instrument || !range) return;
  const plain = plainLevels(instrument);
  const level = it.position === undefined ? undefined : plain[it.position];
  const order: RenderOrder = {
    name,
    instrumentId: contender.instrumentId,
    articulation: it.articulation,
    phrase: writeHearing(it, range),
    bpm: HEAR_BPM,
    mix: mixOfLevels(it.position !== undefined && level !== undefined ? { [it.position]: level } : plain),
  };
  void hear([order], 0, { matched: true });
}
