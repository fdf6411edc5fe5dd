import { beforeEach, describe, expect, it } from 'vitest';
import { hallResponse, HARBOUR_HALL } from '../../rooms/index.ts';
import { instrumentOf, mixOf, plainZone, sine, startEvent } from '../../testing/fixtures.ts';
import {
  AHEAD_BLOCKS,
  AheadReader,
  AheadWords,
  AheadWriter,
  BLOCK,
  Engine,
  ownSoundMemory,
  PLACE_BYTES,
  Players,
  prepareInstrument,
  Rings,
  sortEvents,
  type EngineEvent,
} from '../index.ts';

const TRACKS = 20;
/** Blocks ready when one has just been read. */
const LEFT = AHEAD_BLOCKS - 1;
const sound = ownSoundMemory();
const audio = new Map(Array.from({ length: TRACKS }, (_, i) => [`s${i}`, sine(150 + 37 * i, 4, 0.04)]));
const prepared = Array.from({ length: TRACKS }, (_, i) =>
  prepareInstrument(
    instrumentOf(
      [{ id: 'long', name: 'long', zones: [plainZone({ samples: { mix: { sample: `s${i}` } } })] }],
      audio,
    ),
    audio,
    sound,
  ),
);
const mix = { ...mixOf(['mix']), hallSendDb: -20 };
const hall = hallResponse(HARBOUR_HALL);
let clock = 0;
const now = () => (clock += 0.25);

/** A tone on every track, one after the other, each until nearly the end. */
const tones: EngineEvent[] = Array.from({ length: TRACKS }, (_, track) =>
  startEvent({ track, sound: track, frame: track * 500, key: 60 }),
);

function seatAll(players: Players, own: (track: number) => boolean): void {
  players.ensureTracks(TRACKS);
  players.tracks.forEach((track, i) => {
    track.setInstrument(own(i) ? prepared[i] : null);
    track.setMix(mix, 48_000);
    track.reset();
  });
}

/** A reader in the engine, and writers that share the tracks among them. */
function stage(count: number, withHall = true) {
  const words = AheadWords.create();
  const rings = new Rings(sound);
  while (rings.tracks < TRACKS) rings.add(sound.allocateClear(PLACE_BYTES));
  const writerOf = (index: number) => {
    const players = new Players(undefined, sound);
    seatAll(players, (track) => track % count === index);
    const writer = new AheadWriter(players, words, index, rings, sound);
    writer.own(Array.from({ length: TRACKS }, (_, i) => i).filter((track) => track % count === index));
    return { writer, players };
  };
  const writers = Array.from({ length: count }, (_, index) => writerOf(index));
  const engine = new Engine(undefined, sound);
  if (withHall) engine.setHall(hall);
  engine.ahead = new AheadReader(words, rings, sound);
  engine.ahead.setOwners(Array.from({ length: TRACKS }, (_, i) => i % count));
  const share = (events: readonly EngineEvent[], index: number) =>
    events.filter((event) => event.track % count === index);
  const asleep = new Set<number>();
  const [left, right] = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  let epoch = 0;
  return {
    engine,
    ahead: engine.ahead,
    words,
    writers,
    asleep,
    writerOf,
    share,
    get epoch() {
      return epoch;
    },
    play(events: readonly EngineEvent[]) {
      epoch++;
      writers.forEach(({ writer }, index) => writer.begin(epoch, share(events, index)));
      engine.ahead?.begin(epoch);
    },
    /** So many blocks of the mix; before each the writers work as far ahead as they may. */
    hear(blocks: number): Float32Array {
      const heard = new Float32Array(blocks * BLOCK);
      for (let block = 0; block < blocks; block++) {
        writers.forEach(({ writer }, index) => {
          while (!asleep.has(index) && writer.hasRoom) writer.render(now);
        });
        engine.renderMix(left, right);
        heard.set(left, block * BLOCK);
      }
      return heard;
    },
  };
}

/** The same in one piece. */
function inOnePiece(events: readonly EngineEvent[], blocks: number, withHall = true): Float32Array {
  const engine = new Engine(undefined, sound);
  if (withHall) engine.setHall(hall);
  seatAll(engine, () => true);
  engine.reset();
  engine.setEvents(events);
  const [heard, right] = [new Float32Array(blocks * BLOCK), new Float32Array(BLOCK)];
  for (let at = 0; at < heard.length; at += BLOCK) engine.renderMix(heard.subarray(at, at + BLOCK), right);
  return heard;
}

const differing = (a: Float32Array, b: Float32Array) =>
  a.reduce((count, value, i) => count + (value === b[i] ? 0 : 1), 0);
const loudest = (sound: Float32Array) => sound.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
/** Largest step from one frame to the next, the jump of a click. */
const jump = (sound: Float32Array) => {
  let most = 0;
  for (let i = 1; i < sound.length; i++) most = Math.max(most, Math.abs(sound[i] - sound[i - 1]));
  return most;
};

beforeEach(() => (clock = 0));

describe('a performance that is rendered ahead', () => {
  it.each([1, 2, 3])('by %d writers is the one in one piece, bit for bit', (count) => {
    const one = stage(count);
    one.play(tones);
    const heard = one.hear(150);
    expect(loudest(heard)).toBeGreaterThan(0.1);
    expect(differing(heard, inOnePiece(tones, 150))).toBe(0);
    expect(one.ahead.lateBlocks).toBe(0);
    expect(one.ahead.voiceCount).toBe(TRACKS);
    expect(one.ahead.frame).toBe(150 * BLOCK);
  });

  it('waits for the slowest writer, but not for ever', () => {
    const one = stage(2);
    one.play(tones);
    one.asleep.add(1);
    expect(loudest(one.hear(50))).toBe(0);
    expect(one.ahead.plays).toBe(true);
    expect(one.ahead.runs).toBe(false);
    one.asleep.delete(1);
    expect(differing(one.hear(60), inOnePiece(tones, 60))).toBe(0);

    one.play(tones);
    one.asleep.add(1);
    one.hear(188);
    expect(one.ahead.runs).toBe(false);
    expect(loudest(one.hear(100))).toBeGreaterThan(0.05);
  });

  it('is told by its levels, of tracks and positions', () => {
    const one = stage(2, false);
    one.play(tones.slice(0, 1));
    one.hear(40);
    expect(one.ahead.takeLevel(0, 0)).toBeCloseTo(0.04, 3);
    expect(one.ahead.takeLevel(0, 1)).toBeCloseTo(0.04, 3);
    expect(one.ahead.takeLevel(0, 0)).toBe(0);
    expect(one.ahead.takeLevel(1, 0)).toBe(0);
    expect(one.ahead.takeLevel(TRACKS + 5, 0)).toBe(0);
  });

  it('leaves what hands play as it is, and adds it', () => {
    const one = stage(1, false);
    seatAll(one.engine, (track) => track === 3);
    one.engine.apply(startEvent({ track: 3, sound: 9, key: 72 }));
    one.hear(20);
    one.play(tones.slice(0, 1));
    const heard = one.hear(60);
    expect(one.engine.voiceCount).toBe(1);
    const alone = inOnePiece(tones.slice(0, 1), 60, false);
    expect(loudest(heard)).toBeGreaterThan(1.5 * loudest(alone));
  });
});

describe('a writer that is late', () => {
  it('is faded and counted, the others go on, and it is heard again', () => {
    const one = stage(2, false);
    one.play(tones);
    const before = one.hear(120);
    one.asleep.add(1);
    const gap = one.hear(60);
    // What was rendered ahead is heard to its end.
    expect(one.ahead.lateBlocks).toBe(60 - LEFT);
    one.asleep.delete(1);
    const after = one.hear(120);
    const whole = inOnePiece(tones, 300, false);
    const others = inOnePiece(one.share(tones, 0), 300, false);
    const heard = new Float32Array([...before, ...gap, ...after]);
    expect(differing(before, whole.subarray(0, before.length))).toBe(0);
    const within = (a: number, b: number) => [a * BLOCK, b * BLOCK] as const;
    const silent = within(120 + LEFT, 180);
    for (let i = silent[0]; i < silent[1]; i++) expect(heard[i]).toBeCloseTo(others[i], 6);
    const again = within(200, 300);
    let off = 0;
    for (let i = again[0]; i < again[1]; i++) off = Math.max(off, Math.abs(heard[i] - whole[i]));
    expect(off).toBeLessThan(1e-4);
    // The fade of a whole block adds no more than its slope.
    expect(jump(heard)).toBeLessThan(jump(whole) + loudest(whole) / BLOCK + 1e-3);
    expect(one.ahead.lateBlocks).toBeLessThan(60);
  });

  it('again and again plays fewer voices until it has been in time for a while', () => {
    const one = stage(1, false);
    one.writers[0].writer.setLimit(100);
    one.play(tones);
    one.hear(120);
    const oversleep = () => {
      one.asleep.add(0);
      one.hear(30);
      one.asleep.delete(0);
      one.hear(10);
    };
    // Once in a while may be the machine's doing.
    oversleep();
    expect(one.writers[0].players.voiceLimit).toBe(100);
    oversleep();
    expect(one.writers[0].players.voiceLimit).toBe(16);
    expect(one.ahead.stolen).toBe(4);
    one.hear(3000);
    expect(one.writers[0].players.voiceLimit).toBeGreaterThan(20);
    expect(one.writers[0].players.voiceLimit).toBeLessThanOrEqual(100);
  });

  it('is replaced while the music goes on, from what it left on', () => {
    const one = stage(2, false);
    one.play(tones);
    const before = one.hear(120);
    // It dies; another takes its place a quarter of a second later and begins where it is told, with what sounds there.
    one.asleep.add(1);
    const replacement = one.writerOf(1);
    const block = 220;
    const entering = one.share(tones, 1).map((event) => ({
      ...event,
      frame: block * BLOCK,
      offsetSeconds: (block * BLOCK - event.frame) / 48_000,
    }));
    replacement.writer.begin(one.epoch, sortEvents(entering as EngineEvent[]), block);
    one.writers[1] = replacement;
    one.asleep.delete(1);
    const after = one.hear(200);
    const heard = new Float32Array([...before, ...after]);
    const whole = inOnePiece(tones, 320, false);
    let off = 0;
    for (let i = 240 * BLOCK; i < heard.length; i++) off = Math.max(off, Math.abs(heard[i] - whole[i]));
    expect(off).toBeLessThan(1e-4);
    expect(jump(heard)).toBeLessThan(jump(whole) + loudest(whole) / BLOCK + 1e-3);
    expect(one.ahead.lateBlocks).toBe(220 - 120 - LEFT);
  });

  it('is replaced without a gap by one that begins before what was left is over', () => {
    const one = stage(2, false);
    one.play(tones);
    one.hear(120);
    const replacement = one.writerOf(1);
    const block = 125;
    const entering = one.share(tones, 1).map((event) => ({
      ...event,
      frame: block * BLOCK,
      offsetSeconds: (block * BLOCK - event.frame) / 48_000,
    }));
    replacement.writer.begin(one.epoch, entering as EngineEvent[], block);
    one.writers[1] = replacement;
    const after = one.hear(80);
    const whole = inOnePiece(tones, 200, false).subarray(120 * BLOCK);
    expect(one.ahead.lateBlocks).toBe(0);
    let off = 0;
    for (let i = 0; i < after.length; i++) off = Math.max(off, Math.abs(after[i] - whole[i]));
    expect(off).toBeLessThan(1e-4);
  });
});

describe('stopping and beginning anew', () => {
  it('fades what was rendered ahead, within 43 ms and without a jump', () => {
    const one = stage(2, false);
    one.play(tones);
    const before = one.hear(120);
    one.ahead.stop();
    expect(one.ahead.plays).toBe(false);
    const after = one.hear(40);
    const whole = inOnePiece(tones, 160, false);
    expect(jump(new Float32Array([...before.subarray(-BLOCK), ...after]))).toBeLessThan(1.3 * jump(whole));
    // Half of it is left in the middle of the fade, and nothing after it.
    const middle = after.subarray(7 * BLOCK, 9 * BLOCK);
    expect(loudest(middle) / loudest(whole.subarray(127 * BLOCK, 129 * BLOCK))).toBeCloseTo(0.5, 0);
    expect(loudest(after.subarray(AHEAD_BLOCKS * BLOCK))).toBe(0);
    expect(loudest(after.subarray(0, BLOCK))).toBeGreaterThan(0.05);
  });

  it('stops once: a second stop within the fade lets it go on', () => {
    const one = stage(1, false);
    one.play(tones);
    one.hear(120);
    one.ahead.stop();
    const first = one.hear(6);
    one.ahead.stop();
    const rest = one.hear(20);
    expect(jump(new Float32Array([...first, ...rest]))).toBeLessThan(
      1.3 * jump(inOnePiece(tones, 160, false)),
    );
    expect(loudest(rest.subarray(10 * BLOCK))).toBe(0);
    expect(loudest(rest.subarray(0, 4 * BLOCK))).toBeGreaterThan(0.02);
  });

  it('begins anew in the middle: what rang leaves in 21 ms, and the new is as if nothing had been', () => {
    const one = stage(2);
    one.play(tones);
    const before = one.hear(140);
    const quiet = tones.slice(0, 1).map((event) => ({ ...event, frame: 3000 }));
    one.play(quiet);
    const after = one.hear(150);
    const fresh = inOnePiece(quiet, 150);
    expect(jump(new Float32Array([...before.subarray(-BLOCK), ...after]))).toBeLessThan(
      1.3 * jump(inOnePiece(tones, 160)),
    );
    expect(loudest(after.subarray(0, BLOCK))).toBeGreaterThan(0.05);
    expect(differing(after.subarray(8 * BLOCK), fresh.subarray(8 * BLOCK))).toBe(0);
    expect(loudest(fresh)).toBeGreaterThan(0.03);
  });

  it('may be begun twice at once, without a jump', () => {
    const one = stage(1, false);
    one.play(tones);
    const before = one.hear(120);
    one.play([]);
    const between = one.hear(3);
    one.play([]);
    const after = one.hear(12);
    const all = new Float32Array([...before.subarray(-BLOCK), ...between, ...after]);
    expect(jump(all)).toBeLessThan(1.3 * jump(inOnePiece(tones, 140, false)));
    expect(loudest(after.subarray(8 * BLOCK))).toBe(0);
  });
});

describe('while it plays', () => {
  it('a moved mix is heard as soon as what was rendered ahead is over', () => {
    const one = stage(2, false);
    one.play(tones);
    one.hear(120);
    for (const { players } of one.writers)
      players.tracks.forEach((track) => track.setMix({ ...mix, muted: true }, 48_000));
    const after = one.hear(60);
    expect(loudest(after.subarray(0, LEFT * BLOCK))).toBeGreaterThan(0.1);
    // 43 ms ahead and 37 ms of glide: 80 ms.
    expect(loudest(after.subarray(30 * BLOCK))).toBeLessThan(0.02 * loudest(after));
  });

  it('nothing is written further ahead than the rings are long, nor for a performance that is over', () => {
    const one = stage(1, false);
    one.play(tones);
    const [{ writer }] = one.writers;
    let count = 0;
    while (writer.hasRoom) {
      writer.render(now);
      count++;
    }
    expect(count).toBe(AHEAD_BLOCKS);
    one.hear(1);
    one.ahead.begin(99);
    expect(writer.hasRoom).toBe(false);
    expect(one.words.busy(0)).toBe(count * 250);
  });
});
