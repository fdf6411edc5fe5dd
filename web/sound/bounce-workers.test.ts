import { BlobReader, TextWriter, ZipReader, type FileEntry } from '@zip.js/zip.js';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import {
  BounceShare,
  engineFor,
  playedTracks,
  Stretches,
  STRETCH_FRAMES,
  type BounceOrder,
} from '#core/deliver/index.ts';
import { SoundMemory, type EngineEvent } from '#core/engine/index.ts';
import { readWav } from '#core/formats/index.ts';
import { hallResponse, HARBOUR_HALL } from '#core/rooms/index.ts';
import { instrumentOf, mixOf, plainZone, sine, startEvent } from '#core/testing/fixtures.ts';
import { AHEAD, WORD, type BouncedFile } from './bounce-protocol.ts';
import { eventually } from '#core/testing/eventually.ts';

/** Both workers of a bounce, one at a time: whenever one waits, the test does what the other would. */

type Handler = (event: { data: unknown }) => void;
const scope = {
  onmessage: undefined as Handler | undefined,
  postMessage: (data: unknown) => answers.push(data as Answer),
};
interface Answer {
  kind: string;
  message?: string;
  files?: BouncedFile[];
  figures?: { frames: number; integratedLufs: number };
  frames?: number;
  stolen?: number;
  file?: Blob;
}
let answers: Answer[];
let mixer: Handler;
let sharer: Handler;
beforeAll(async () => {
  vi.stubGlobal('self', scope);
  await import('./bounce.worker.ts');
  mixer = scope.onmessage as Handler;
  await import('./bounce-share.worker.ts');
  sharer = scope.onmessage as Handler;
});
afterAll(() => vi.unstubAllGlobals());
beforeEach(() => (answers = []));
afterEach(() => vi.restoreAllMocks());

const sound = SoundMemory.create();
const audio = new Map([
  ['a', sine(440, 0.3, 0.3)],
  ['b', sine(660, 0.3, 0.2)],
]);
const instrument = (sample: string) => ({
  ...instrumentOf(
    [{ id: 'long', name: 'long', zones: [plainZone({ samples: { mix: { sample } } })] }],
    audio,
  ),
  id: sample,
});
const mix = { ...mixOf(['mix']), hallSendDb: -10 };
const events: EngineEvent[] = [
  startEvent({ track: 0, sound: 1, key: 69 }),
  startEvent({ track: 2, sound: 2, key: 69, frame: 2000 }),
];
const order = (hall: boolean): BounceOrder => ({
  instruments: [instrument('a'), instrument('b')].map((one) => ({ instrument: one, audio })),
  tracks: ['a', null, 'b'].map((instrumentId) => ({ instrumentId, mix })),
  hall: hall ? hallResponse(HARBOUR_HALL) : null,
  hallMix: { earlyDb: 0, tailDb: 0 },
  events,
  endFrame: 20_000,
});
const room = (bytes = 16 * 2 ** 20) => {
  const from = sound.allocate(bytes);
  return { memory: sound.memory, room: { from, to: from + bytes } };
};
/** Where both work. */
function shared(whole: BounceOrder) {
  const tracks = playedTracks(whole);
  const address = sound.allocateClear(Stretches.bytes(tracks.length));
  return {
    tracks,
    address,
    control: new Int32Array(new SharedArrayBuffer(16)),
    format: 'f32' as const,
    shared: room(),
  };
}
/** Does something whenever a worker waits for a word. */
function whenWaiting(act: (word: number) => void) {
  vi.spyOn(Atomics, 'wait').mockImplementation(((_: Int32Array, word: number) => {
    act(word);
    return 'ok';
  }) as never);
}
const waveOf = async (files: readonly BouncedFile[] | undefined, name: string) => {
  const found = files?.find((one) => one.name === name);
  if (!found) throw new Error(`no ${name}`);
  return readWav(new Uint8Array(await found.file.arrayBuffer()), name).channels;
};
/** The left channel in one piece. */
function inOnePiece(whole: BounceOrder, frames: number): Float32Array {
  const engine = engineFor(whole, sound);
  const [left, right] = [new Float32Array(frames), new Float32Array(128)];
  for (let at = 0; at < frames; at += 128) engine.renderMix(left.subarray(at, at + 128), right);
  return left;
}
const differing = (a: Float32Array, b: Float32Array) =>
  a.reduce((count, value, i) => count + (value === b[i] ? 0 : 1), 0);

describe('the worker that mixes', () => {
  it.each([false, true])(
    'adds what shares render as the engine does, and stops in the silence; hall %s',
    async (hall) => {
      const whole = order(hall);
      const both = shared(whole);
      const share = new BounceShare(
        { ...whole, hall: null },
        both.tracks,
        new Stretches(both.address, both.tracks),
        SoundMemory.within(sound.memory, room().room),
      );
      let rendered = 0;
      whenWaiting((word) => {
        expect(word).toBe(WORD.rendered);
        // No further ahead than the mix allows.
        expect(rendered - Atomics.load(both.control, WORD.mixed)).toBeLessThan(AHEAD);
        share.render();
        Atomics.store(both.control, WORD.rendered, ++rendered);
        Atomics.store(both.control, WORD.rendered + 1, rendered);
      });
      mixer({
        data: {
          kind: 'mix',
          order: whole,
          groups: [
            { name: 'First', tracks: [0] },
            { name: 'Both', tracks: [0, 2] },
          ],
          hallFile: hall,
          ...both,
        },
      });
      await eventually(() => expect(answers.at(-1)?.kind).toBe('done'));
      const { files, figures } = answers.at(-1) as Answer;
      expect(files?.map(({ name }) => name)).toEqual(['Mix', 'First', 'Both', ...(hall ? ['Hall'] : [])]);
      const [left, right] = await waveOf(files, 'Mix');
      expect(left.length).toBe(rendered * STRETCH_FRAMES);
      expect(figures?.frames).toBe(left.length);
      expect(figures?.integratedLufs).toBeGreaterThan(-30);
      expect(left.length).toBeGreaterThanOrEqual(20_000);
      expect(differing(left, inOnePiece(whole, left.length))).toBe(0);
      const [groupLeft, groupRight] = await waveOf(files, 'Both');
      const [first] = await waveOf(files, 'First');
      if (hall) {
        const [wet] = await waveOf(files, 'Hall');
        expect(
          left.reduce((most, value, i) => Math.max(most, Math.abs(value - groupLeft[i] - wet[i])), 0),
        ).toBeLessThan(1e-6);
        expect(wet.some((value) => Math.abs(value) > 0.001)).toBe(true);
      } else {
        expect(differing(groupLeft, left)).toBe(0);
        expect(differing(groupRight, right)).toBe(0);
      }
      // The second track begins at frame 2,000.
      expect(differing(first.subarray(0, 1900), groupLeft.subarray(0, 1900))).toBe(0);
      expect(differing(first, groupLeft)).toBeGreaterThan(5000);
      expect([Atomics.load(both.control, WORD.over), Atomics.load(both.control, WORD.mixed)]).toEqual([
        1,
        rendered,
      ]);
      const told = answers.filter(({ kind }) => kind === 'progress').map(({ frames }) => frames ?? 0);
      expect(told.length).toBeGreaterThan(0);
      expect(told[0]).toBe(STRETCH_FRAMES);
    },
  );

  it('says what goes wrong', async () => {
    mixer({
      data: {
        kind: 'mix',
        order: order(false),
        groups: [],
        hallFile: false,
        ...shared(order(false)),
        tracks: null,
      },
    });
    await eventually(() => expect(answers.at(-1)?.kind).toBe('failed'));
    expect(answers.at(-1)?.message).toBeTruthy();
  });

  it('puts files into one as they are', async () => {
    const files = [
      { name: 'Mix.wav', file: new Blob(['the whole']) },
      { name: 'Strings/Violins.wav', file: new Blob(['a part']) },
    ];
    mixer({ data: { kind: 'zip', files } });
    await eventually(() => expect(answers.at(-1)?.kind).toBe('zipped'));
    const entries = await new ZipReader(new BlobReader(answers.at(-1)?.file as Blob)).getEntries();
    const texts = await Promise.all(
      entries.map(async (entry) => [entry.filename, await (entry as FileEntry).getData(new TextWriter())]),
    );
    expect(texts).toEqual([
      ['Mix.wav', 'the whole'],
      ['Strings/Violins.wav', 'a part'],
    ]);
    expect(entries.every(({ compressionMethod }) => compressionMethod === 0)).toBe(true);
  });
});

describe('a worker that renders a share', () => {
  it('goes as far ahead as there is room, and writes its own files to where the mix has ended', async () => {
    const whole = order(false);
    const both = shared(whole);
    let most = 0;
    whenWaiting((word) => {
      expect(word).toBe(WORD.mixed);
      const mixed = Atomics.load(both.control, WORD.mixed);
      most = Math.max(most, Atomics.load(both.control, WORD.rendered + 1) - mixed);
      Atomics.store(both.control, WORD.mixed, mixed + 1);
      if (mixed + 1 === 3) Atomics.store(both.control, WORD.over, 1);
    });
    sharer({
      data: { order: whole, own: [2], index: 1, stems: new Map([[2, 'Second']]), ...both },
    });
    await eventually(() => expect(answers).toHaveLength(1));
    const [{ kind, files, stolen }] = answers;
    expect([kind, stolen]).toEqual(['done', 0]);
    expect(most).toBe(AHEAD);
    const [left] = await waveOf(files, 'Second');
    expect(left.length).toBe(3 * STRETCH_FRAMES);
    const alone = { ...whole, events: whole.events.filter((event) => event.track === 2) };
    expect(differing(left, inOnePiece(alone, left.length))).toBe(0);
    // Of the other share nothing was told.
    expect(Atomics.load(both.control, WORD.rendered)).toBe(0);
  });

  it('writes no file for what nobody wants, and says what goes wrong', async () => {
    const whole = order(false);
    const both = shared(whole);
    whenWaiting(() => Atomics.store(both.control, WORD.over, 1));
    sharer({ data: { order: whole, own: [0], index: 0, stems: new Map(), ...both } });
    await eventually(() => expect(answers[0]).toMatchObject({ kind: 'done', files: [] }));
    sharer({ data: { order: null, own: [0], index: 0, stems: new Map(), ...both } });
    await eventually(() => expect(answers[1]?.kind).toBe('failed'));
    expect(answers[1].message).toBeTruthy();
  });
});
