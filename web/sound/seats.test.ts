import { beforeEach, describe, expect, it } from 'vitest';
import { Players, prepareInstrument, SoundMemory } from '#core/engine/index.ts';
import { instrumentOf, mixOf, plainZone, sine, startEvent } from '#core/testing/fixtures.ts';
import type { ToPlayers } from './messages.ts';
import { Seats } from './seats.ts';

const audio = new Map([
  ['a', sine(440, 1)],
  ['b', sine(300, 1)],
]);
const made = instrumentOf(
  [
    {
      id: 'long',
      name: 'long',
      zones: [
        plainZone({ keyHigh: 60, samples: { mix: { sample: 'a' } } }),
        plainZone({ keyLow: 61, samples: { mix: { sample: 'b' } } }),
      ],
    },
  ],
  audio,
);

let sound: SoundMemory;
let players: Players;
let seats: Seats;
let settles: boolean;
let passed: number[];
let limit: number;
beforeEach(() => {
  sound = SoundMemory.create();
  players = new Players(undefined, sound);
  settles = true;
  passed = [];
  limit = 0;
  seats = new Seats(
    players,
    sound,
    () => settles,
    (voices) => (limit = voices),
    (number) => passed.push(number),
  );
});

const placed = (id: 'a' | 'b') => {
  const { data, channels, frames, rate } = audio.get(id) ?? sine(1, 1);
  return { address: sound.placeOf(data), wide: false, channels, frames, rate };
};
const zones = (from: number, number?: number): ToPlayers => ({
  kind: 'zones',
  instrumentId: 'test',
  index: 0,
  zones: made.articulations[0].zones.slice(from, from + 1),
  samples: {},
  number,
});
const head: ToPlayers = {
  kind: 'instrument',
  instrument: { ...made, articulations: [{ ...made.articulations[0], zones: [] }] },
};
const all = (): ToPlayers[] => [
  { kind: 'tracks', tracks: [{ instrumentId: 'test', mix: mixOf(['mix']), byHand: true }] },
  head,
  zones(0, 7),
  zones(1),
  { kind: 'ready', instrumentId: 'test' },
  {
    kind: 'audio',
    instrumentId: 'test',
    audio: new Map([
      ['a', placed('a')],
      ['b', placed('b')],
    ]),
    number: 8,
  },
];
/** What eight blocks of a note are, in the memory of those who play it. */
const heard = (from: Players, key: number, memory = sound) => {
  from.apply(startEvent({ key }));
  const blocks: number[][] = [];
  for (let i = 0; i < 8; i++) from.render((_, at) => blocks.push([...memory.floats(at, 256)]));
  return blocks.flat();
};

describe('what a thread plays as it is told', () => {
  it('is the same as an instrument made ready at once', () => {
    for (const message of all()) seats.take(message);
    expect(passed).toEqual([7, 8]);
    const other = SoundMemory.create();
    const whole = new Players(undefined, other);
    whole.ensureTracks(1);
    whole.tracks[0].setInstrument(prepareInstrument(made, audio, other));
    whole.tracks[0].setMix(mixOf(['mix']), 48_000);
    whole.tracks[0].reset();
    for (const key of [50, 70]) {
      const now = heard(players, key);
      expect(now.some((value) => Math.abs(value) > 0.1)).toBe(true);
      expect(now).toEqual(heard(whole, key, other));
    }
  });

  it('is nothing before all of an instrument was told', () => {
    const messages = all();
    for (const message of messages.slice(0, 4)) seats.take(message);
    expect(players.tracks[0].instrument).toBeNull();
    expect(heard(players, 50)).toEqual([]);
    seats.take(messages[4]);
    expect(players.tracks[0].instrument?.id).toBe('test');
    // Without its recordings it is silent.
    expect(heard(players, 50)).toEqual([]);
  });

  it('is silent once its samples are gone, or the instrument', () => {
    for (const message of all()) seats.take(message);
    seats.take({ kind: 'gone', ids: ['a'], number: 9 });
    expect(passed.at(-1)).toBe(9);
    expect(heard(players, 50)).toEqual([]);
    expect(heard(players, 70).length).toBeGreaterThan(0);
    seats.take({ kind: 'drop', instrumentId: 'test' });
    seats.take({ kind: 'tracks', tracks: [{ instrumentId: 'test', mix: mixOf(['mix']), byHand: true }] });
    expect(players.tracks[0].instrument).toBeNull();
  });

  it('keeps what it has of an instrument until a newer one is whole', () => {
    for (const message of all()) seats.take(message);
    const before = players.tracks[0].instrument;
    seats.take(head);
    seats.take(zones(0));
    expect(players.tracks[0].instrument).toBe(before);
    seats.take({ kind: 'ready', instrumentId: 'test' });
    expect(players.tracks[0].instrument).not.toBe(before);
  });

  it('takes a mix at once where nothing plays, and has voices ready', () => {
    for (const message of all()) seats.take(message);
    expect(players.tracks[0].isAudible).toBe(true);
    seats.take({
      kind: 'tracks',
      tracks: [{ instrumentId: 'test', mix: { ...mixOf(['mix']), muted: true }, byHand: true }],
    });
    // The track has its instrument already: it glides.
    expect(players.tracks[0].isAudible).toBe(true);
    seats.take({ kind: 'mix', track: 0, mix: { ...mixOf(['mix']), gainDb: -6 } });
    expect(players.tracks[0].power).toBeCloseTo(10 ** -0.6, 6);
    expect(seats.setup[0].mix.gainDb).toBe(-6);
    seats.take({ kind: 'limit', voices: 40 });
    expect(limit).toBe(40);
    expect(seats.setup).toHaveLength(1);
  });
  it('works in the room it was given, and in more when it is given more', () => {
    const give = (bytes: number) => {
      const from = sound.allocate(bytes);
      return { from, to: from + bytes };
    };
    const inner = SoundMemory.within(sound.memory, give(2 ** 20));
    const own = new Seats(
      players,
      inner,
      () => true,
      () => undefined,
      () => undefined,
    );
    expect(() => inner.allocate(2 ** 20 + 1)).toThrow(/no more memory/);
    own.take({ kind: 'room', room: give(2 ** 21) });
    expect(inner.allocate(2 ** 20 + 1)).toBeGreaterThan(0);
  });
});
