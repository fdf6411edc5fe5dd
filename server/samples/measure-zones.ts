import type { Zone } from '#core/catalogue/index.ts';
import { measureLayers } from '#core/intake/index.ts';
import {
  attackEnvelope,
  EARLIEST_LANDING_SECONDS,
  HOP_SECONDS,
  landingSeconds,
  meanLevelDb,
  onsetOfEnvelope,
  packEnvelope,
} from '#core/measure/index.ts';
import { centsToRatio, midiToHertz } from '#core/units/index.ts';

/** Audio of one recording while it is being taken in. */
export interface Heard {
  channels: readonly Float32Array[];
  rate: number;
}

/** Fills in what must be known before a note is planned: envelopes, leads, levels. */
export function measureZones(
  zones: readonly Zone[],
  audioOf: (sample: string) => Heard | undefined,
  progress: (share: number) => void,
): void {
  const known = new Map<string, object>();
  zones.forEach((zone, i) => {
    for (const ref of Object.values(zone.samples)) {
      const audio = audioOf(ref.sample);
      if (!audio) continue;
      const key = `${zone.role} ${ref.sample} ${zone.startFrame} ${zone.rootKey} ${zone.interval ?? 0}`;
      let measured = known.get(key);
      if (!measured) known.set(key, (measured = measure(zone, audio)));
      Object.assign(ref, measured);
    }
    progress((i + 1) / zones.length);
  });
  measureLayers(zones, audioOf);
}

function measure(zone: Zone, { channels, rate }: Heard): object {
  const levelDb =
    Math.round(meanLevelDb(channels as Float32Array[], zone.startFrame, zone.startFrame + rate / 2) * 100) /
    100;
  if (zone.role === 'attack') {
    const envelope = attackEnvelope(channels, rate, zone.startFrame);
    return { leadSeconds: onsetOfEnvelope(envelope), levelDb, envelope: packEnvelope(envelope) };
  }
  if (zone.role === 'release' || zone.interval === undefined) return { leadSeconds: 0, levelDb };
  if (zone.interval === 0)
    return { leadSeconds: dipSeconds(attackEnvelope(channels, rate, zone.startFrame)), levelDb };
  const mono = channels.length === 1 ? channels[0] : channels[0].map((value, i) => value + channels[1][i]);
  const root = midiToHertz(zone.rootKey - zone.tuneCents / 100);
  const landing = landingSeconds(
    mono,
    rate,
    root * centsToRatio(-100 * zone.interval),
    root,
    zone.startFrame + EARLIEST_LANDING_SECONDS * rate,
    mono.length,
  );
  return { leadSeconds: landing === undefined ? 0 : landing - zone.startFrame / rate, levelDb };
}

/** A repeated pitch lands where the tone is least: there the new bow or breath begins. */
function dipSeconds(envelope: Float64Array): number {
  let least = 8;
  for (let i = 8; i < envelope.length / 2; i++) if (envelope[i] < envelope[least]) least = i;
  return least * HOP_SECONDS;
}
