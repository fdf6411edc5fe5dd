import { useEffect, useState } from 'react';
import { layersOf } from '#core/report/index.ts';
import { soundHost } from './host.ts';
import { useInstruments } from './instruments.ts';
import { usePerformance } from './performance-state.ts';

/** What hands hear of the taken sound now. */
export interface HandSound {
  key: number;
  /** Layer that is heard most, 1 softest, of how many. */
  layer: number;
  layers: number;
  take: number;
  takes: number;
}

/** Hook: the dominating layer and the take of every key that sounds of the taken sound. */
export function useHandSounds(): readonly HandSound[] {
  const taken = usePerformance((state) => state.taken);
  const articulationId = usePerformance((state) => state.articulation);
  const instrument = useInstruments((state) => state.loads[taken?.instrumentId ?? '']?.instrument);
  const [sounds, setSounds] = useState<readonly HandSound[]>([]);
  useEffect(() => {
    const articulation = instrument?.articulations.find((one) => one.id === articulationId);
    const layers = articulation ? layersOf(articulation) : [];
    const layerOf = new Map(
      layers.flatMap(({ zones }, i) =>
        zones.flatMap((zone) => Object.values(zone.samples).map(({ sample }) => [sample, i + 1] as const)),
      ),
    );
    let told = '';
    return soundHost.listen(({ sounding }) => {
      const next = taken
        ? sounding.map(({ key, take, takes, sample }) => ({
            key,
            take: take + 1,
            takes,
            layer: layerOf.get(sample) ?? 0,
            layers: layers.length,
          }))
        : [];
      const text = JSON.stringify(next);
      if (text === told) return;
      told = text;
      setSounds(next);
    });
  }, [taken, articulationId, instrument]);
  return sounds;
}
