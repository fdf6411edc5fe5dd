import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Instrument } from '#core/catalogue/index.ts';
import type { SampleAudio } from '#core/engine/index.ts';
import { PLAIN_POSITION } from '#core/mixing/index.ts';
import { instrumentOf, mixOf, plainZone, sine } from '#core/testing/fixtures.ts';
import type { EngineTrackSetup, ToPlayers } from './messages.ts';
import { pageMemory } from './page-memory.ts';
import { PlayersThread, type Heard } from './players-thread.ts';
import { eventually } from '#core/testing/eventually.ts';

const audioOf = (ids: readonly string[]): Map<string, SampleAudio> =>
  new Map(
    ids.map((id) => {
      const audio = sine(440, 0.01, 0.5);
      return [id, { ...audio, address: pageMemory().placeOf(audio.data) }];
    }),
  );

/** Two techniques: one of 100 zones of the sample a, one of a single zone of b. */
function instrument(id: string): Instrument {
  const made = instrumentOf(
    [
      {
        id: 'long',
        name: 'long',
        zones: Array.from({ length: 100 }, (_, key) =>
          plainZone({ keyLow: key, keyHigh: key, samples: { mix: { sample: 'a', levelDb: -20 } as never } }),
        ),
      },
      { id: 'staccato', name: 'staccato', zones: [plainZone({ samples: { mix: { sample: 'b' } } })] },
    ],
    new Map(),
  );
  const info = { frames: 480, channels: 2, rate: 48_000 } as never;
  return { ...made, id, samples: { a: info, b: info } };
}

const track = (instrumentId: string | null, mix = mixOf(['mix'])): EngineTrackSetup => ({
  instrumentId,
  mix,
  byHand: true,
});

let sent: ToPlayers[];
let known: Map<string, Heard>;
beforeEach(() => {
  sent = [];
  known = new Map([
    ['one', { instrument: instrument('one'), audio: audioOf(['a']) }],
    ['two', { instrument: instrument('two'), audio: new Map() }],
  ]);
});
const thread = (paced = false) => new PlayersThread((message) => sent.push(message), known, paced);
const kinds = () => sent.map(({ kind }) => kind);
const of = <Kind extends ToPlayers['kind']>(kind: Kind) =>
  sent.filter((message): message is Extract<ToPlayers, { kind: Kind }> => message.kind === kind);

describe('a thread that plays is told', () => {
  it('its tracks, their instruments part by part, then what is loaded of them', () => {
    thread().setTracks([track('one'), track(null)]);
    expect(kinds()).toEqual([
      'room',
      'tracks',
      'instrument',
      'zones',
      'zones',
      'zones',
      'zones',
      'ready',
      'audio',
    ]);
    const [{ instrument: head }] = of('instrument');
    expect(head.articulations.map(({ id, zones }) => [id, zones.length])).toEqual([
      ['long', 0],
      ['staccato', 0],
    ]);
    const parts = of('zones');
    expect(parts.map(({ index, zones }) => [index, zones.length])).toEqual([
      [0, 48],
      [0, 48],
      [0, 4],
      [1, 1],
    ]);
    expect(parts.flatMap(({ zones }) => zones.map((zone) => zone.keyLow)).slice(0, 100)).toEqual(
      Array.from({ length: 100 }, (_, key) => key),
    );
    // Only what is played from, without what was measured.
    expect(parts[0].samples).toEqual({ a: known.get('one')?.instrument.samples.a });
    expect(parts[0].zones[0].samples).toEqual({ mix: { sample: 'a', levelDb: -20 } });
    const [{ audio }] = of('audio');
    const placed = known.get('one')?.audio.get('a');
    expect([...audio]).toEqual([
      ['a', { address: placed?.address, wide: false, channels: 2, frames: 480, rate: 48_000 }],
    ]);
  });

  it('later only what is new or gone, and nothing of what it does not play', () => {
    const one = thread();
    one.setTracks([track('one')]);
    sent.length = 0;
    one.update('two');
    one.update('one');
    expect(sent).toEqual([]);
    const { instrument: same, audio } = known.get('one') as Heard;
    const [b] = audioOf(['b']).values();
    known.set('one', { instrument: same, audio: new Map([['b', b]]) });
    one.update('one');
    expect(kinds()).toEqual(['audio']);
    expect([...of('audio')[0].audio.keys()]).toEqual(['b', 'a']);
    expect(of('audio')[0].audio.get('a')).toBeNull();
    // Recorded anew, it is another instrument.
    sent.length = 0;
    known.set('one', { instrument: instrument('one'), audio });
    one.update('one');
    expect(kinds()[0]).toBe('instrument');
    expect(kinds().at(-1)).toBe('audio');
  });

  it('recordings a few hundred at a time', () => {
    const many = audioOf(Array.from({ length: 600 }, (_, i) => `s${i}`));
    known.set('one', { instrument: instrument('one'), audio: many });
    thread().setTracks([track('one')]);
    expect(of('audio').map(({ audio }) => audio.size)).toEqual([256, 256, 88]);
  });

  it('one mix where one has moved, of what it plays', () => {
    const one = thread();
    one.setTracks([track('one'), track(null)]);
    sent.length = 0;
    const mix = { ...mixOf(['mix']), gainDb: -6 };
    one.setTracks([track('one', mix), track(null, mix)]);
    expect(sent).toEqual([{ kind: 'mix', track: 0, mix }]);
    one.setTracks([track('one', mix), track(null)]);
    expect(sent).toHaveLength(1);
  });

  it('to drop what no track plays any more, and again when one does', () => {
    const one = thread();
    one.setTracks([track('one')]);
    sent.length = 0;
    one.setTracks([track('two')]);
    expect(of('drop')).toEqual([{ kind: 'drop', instrumentId: 'one' }]);
    one.setTracks([track('one')]);
    expect(of('instrument').map((message) => message.instrument.id)).toEqual(['two', 'one']);
  });

  it('of room where tracks need more than they have, delays above all', () => {
    const one = thread();
    one.setTracks([track(null)]);
    one.setTracks([track('one')]);
    expect(of('room')).toHaveLength(1);
    const positions = Object.fromEntries(
      Array.from({ length: 8 }, (_, i) => [`p${i}`, { ...PLAIN_POSITION, delayMs: 5 }]),
    );
    one.setTracks([track('one', { ...mixOf([]), positions })]);
    expect(of('room')).toHaveLength(2);
    const [first, second] = of('room').map(({ room }) => room.to - room.from);
    expect(first).toBeGreaterThan(2 ** 20);
    // Eight rings of 128 kB beyond the spare megabyte of the first.
    expect(second).toBeGreaterThan(2 ** 20);
    one.setTracks([track('one', { ...mixOf([]), positions })]);
    expect(of('room')).toHaveLength(2);
  });
});

describe('a thread without time for many messages at once', () => {
  it('is told the next large one when the one before has passed', () => {
    const one = thread(true);
    one.setTracks([track('one')]);
    expect(kinds()).toEqual(['room', 'tracks', 'instrument', 'zones']);
    const numbers: number[] = [];
    for (let guard = 0; guard < 20; guard++) {
      const number = [...of('zones'), ...of('audio')].at(-1)?.number ?? 0;
      if (numbers.includes(number)) break;
      numbers.push(number);
      one.passed(number);
    }
    expect(kinds()).toEqual([
      'room',
      'tracks',
      'instrument',
      'zones',
      'zones',
      'zones',
      'zones',
      'ready',
      'audio',
    ]);
    expect(new Set(numbers).size).toBe(5);
  });

  it('is settled when all has passed', async () => {
    const one = thread(true);
    await one.settled();
    one.setTracks([track('one')]);
    let settled = false;
    void one.settled().then(() => (settled = true));
    for (let i = 0; i < 4; i++) one.passed(of('zones').at(-1)?.number ?? 0);
    await Promise.resolve();
    expect(settled).toBe(false);
    one.passed(of('audio')[0].number ?? 0);
    await eventually(() => expect(settled).toBe(true));
  });

  it('is told of samples that are gone after all that speaks of them', async () => {
    const one = thread(true);
    one.setTracks([track('one')]);
    const gone = one.forget(['a']);
    expect(of('gone')).toEqual([]);
    for (let i = 0; i < 4; i++) one.passed(of('zones').at(-1)?.number ?? 0);
    one.passed(of('audio')[0].number ?? 0);
    expect(kinds().at(-1)).toBe('gone');
    one.passed(of('gone')[0].number);
    await gone;
  });
});

describe('a thread that has ended', () => {
  beforeEach(() => vi.useFakeTimers());
  afterEach(() => vi.useRealTimers());

  it('keeps its room for its last steps, then nothing waits for it', async () => {
    const one = thread();
    one.setTracks([track('one')]);
    const before = pageMemory().usedBytes;
    const room = of('room')[0].room;
    let done = false;
    void one.forget(['a']).then(() => (done = true));
    const over = vi.fn();
    one.end(over);
    await vi.advanceTimersByTimeAsync(1900);
    expect([done, over.mock.calls.length]).toEqual([false, 0]);
    await vi.advanceTimersByTimeAsync(200);
    expect([done, over.mock.calls.length]).toEqual([true, 1]);
    expect(before - pageMemory().usedBytes).toBeGreaterThanOrEqual(room.to - room.from);
    await one.forget(['b']);
  });
});
