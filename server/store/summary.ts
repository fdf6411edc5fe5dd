import type { InstrumentSummary } from '#api/index.ts';
import {
  layersAndTakes,
  markedSeconds,
  memoryBytes,
  playableRange,
  samplesOf,
  vibratoOf,
  type Articulation,
  type Instrument,
} from '#core/catalogue/index.ts';

/** What the shelf shows of an instrument, worked out once when it is stored. */
export function summaryOf(instrument: Instrument, tags: readonly string[]): InstrumentSummary {
  const positions = instrument.positions.map((position) => position.id);
  const bytesFor = (articulations: readonly Articulation[], at: readonly string[]) =>
    memoryBytes(instrument, new Set(articulations.flatMap((a) => [...samplesOf(a, at)])));
  return {
    id: instrument.id,
    name: instrument.name,
    family: instrument.family,
    kind: instrument.kind,
    players: instrument.players,
    tags: tags.filter((tag) => tag !== ''),
    positions: instrument.positions.map(({ id, name }) => ({
      id,
      name,
      bytes: bytesFor(instrument.articulations, [id]),
    })),
    bytes: bytesFor(instrument.articulations, positions),
    articulations: instrument.articulations.map((articulation) => {
      const range = playableRange(articulation);
      const moves = articulation.zones.filter((zone) => zone.role === 'transition');
      return {
        id: articulation.id,
        name: articulation.name,
        low: range?.low ?? 0,
        high: range?.high ?? 0,
        ...layersAndTakes(articulation),
        transitions: moves.length,
        movesLow: moves.reduce((low, zone) => Math.min(low, zone.keyLow), 127),
        movesHigh: moves.reduce((high, zone) => Math.max(high, zone.keyHigh), 0),
        suggestedKey: articulation.suggestedKey ?? null,
        vibrato: vibratoOf(articulation),
        seconds: markedSeconds(articulation) ?? null,
        bytes: bytesFor([articulation], positions),
      };
    }),
  };
}
