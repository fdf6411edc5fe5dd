import type { Instrument } from '../catalogue/index.ts';
import type { SampleAudio } from '../engine/index.ts';
import { foundInSfz, readSfz } from '../formats/index.ts';
import { assemble, guessMeanings, measureLayers } from '../intake/index.ts';
import { meanLevelDb } from '../measure/index.ts';
import {
  instrumentSfz,
  ordersOf,
  recordTake,
  takeFile,
  type InstrumentPlan,
  type TakeOrder,
} from '../recording/index.ts';
import type { HallModel } from '../rooms/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import { toFloats } from './fixtures.ts';

/** An instrument with its recordings in memory. */
export interface RecordedInstrument {
  instrument: Instrument;
  audio: Map<string, SampleAudio>;
}

/**
 * Records what is wanted of an instrument and reads it back through its SFZ, as an import would, without a disk.
 * @param wanted which orders; @param positions microphone positions that are set up
 * @param change lets a recording be made worse before it is kept
 */
export function recorded(
  plan: InstrumentPlan,
  hall: HallModel,
  wanted: (order: TakeOrder) => boolean,
  positions: readonly string[] = ['close'],
  change: (sound: Float32Array, order: TakeOrder, position: string) => Float32Array = (sound) => sound,
): RecordedInstrument {
  const room = { ...hall, mics: hall.mics.filter(({ id }) => positions.includes(id)) };
  const audio = new Map<string, SampleAudio>();
  for (const order of plan.techniques.flatMap(ordersOf).filter(wanted))
    for (const [position, take] of recordTake(plan, room, order)) {
      const left = change(take.left, order, position);
      const right = change(take.right, order, position);
      const data = new Int16Array(left.length * 2);
      for (let i = 0; i < left.length; i++) {
        data[2 * i] = Math.round(left[i] * 32767);
        data[2 * i + 1] = Math.round(right[i] * 32767);
      }
      audio.set(takeFile(order, position), { data, channels: 2, frames: left.length, rate: ENGINE_RATE });
    }
  const file = readSfz('recorded.sfz', () => instrumentSfz(plan, room));
  const regions = file.regions.filter((region) => audio.has(region.opcodes.get('sample')?.value ?? ''));
  const facts = new Map([...audio].map(([path, { frames, rate }]) => [path, { frames, rate, loops: [] }]));
  const { found } = foundInSfz({ ...file, regions }, facts, plan.name);
  const [read] = assemble(found, guessMeanings(found));
  const instrument: Instrument = {
    ...read,
    id: plan.slug,
    name: plan.name,
    family: plan.family,
    kind: plan.kind,
    players: plan.playerCount,
    samples: {},
    packs: {},
  };
  const audioOf = (sample: string) => {
    const found = audio.get(sample);
    return found && { channels: toFloats(found), rate: found.rate };
  };
  for (const { zones } of instrument.articulations) {
    for (const zone of zones)
      for (const ref of Object.values(zone.samples)) {
        const sample = audioOf(ref.sample);
        if (sample)
          ref.levelDb = meanLevelDb(sample.channels, zone.startFrame, zone.startFrame + sample.rate / 2);
      }
    measureLayers(zones, audioOf);
  }
  return { instrument, audio };
}
