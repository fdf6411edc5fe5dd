import type { InstrumentReport, LibrarySummary, SessionInfo } from '#api/index.ts';
import type { BounceOrder } from '#core/deliver/index.ts';
import { heavyMix, heavyOrder, heldVoices, letGo } from './fixtures.ts';
import { heavyInstrument, sortEvents, type EngineEvent } from '#core/engine/index.ts';

/** Figures taken inside the running page; bundled and injected by `bench/run.mjs`. */

const SILENT_HALL: BounceOrder['hall'] = {
  left: new Float32Array(1),
  right: new Float32Array(1),
  earlyFrames: 0,
};
const SECONDS = 4;
const VOICES = 48;

/** Seconds the engine needs, in a worker, for voices with everything on. */
async function engineSeconds(): Promise<number> {
  const farlo = window.farloMeasuring;
  if (!farlo) throw new Error('no measuring handle');
  const order = heavyOrder(1, VOICES, SECONDS, SILENT_HALL);
  order.tracks[0] = { instrumentId: 'heavy', mix: { ...heavyMix, hallSendDb: -60 } };
  const start = performance.now();
  await farlo.startBounce(order, { format: 'f32', workers: 1 }, () => undefined).result;
  // The bounce goes on for a quarter of a second of silence at most; held voices never fall silent, so it adds 12 s.
  return (performance.now() - start) / 1000 / ((SECONDS + 12) / SECONDS);
}

/** Seconds the browser's own graph needs for the same: sources, gains, low-passes, envelopes. */
async function graphSeconds(): Promise<number> {
  const context = new OfflineAudioContext(2, SECONDS * 48_000, 48_000);
  const buffers = Array.from({ length: 8 }, (_, i) => {
    const buffer = context.createBuffer(2, 96_000, 48_000);
    for (let c = 0; c < 2; c++)
      buffer
        .getChannelData(c)
        .forEach((_v, n, data) => (data[n] = 0.2 * Math.sin(n * 0.05 * (1 + (i >> 2)))));
    return buffer;
  });
  for (let v = 0; v < VOICES; v++)
    for (let position = 0; position < 4; position++) {
      const filter = new BiquadFilterNode(context, { type: 'lowpass', frequency: 4000 });
      const envelope = new GainNode(context, { gain: 0 });
      envelope.gain.linearRampToValueAtTime(0.03, 0.01);
      for (let layer = 0; layer < 2; layer++) {
        const source = new AudioBufferSourceNode(context, {
          buffer: buffers[layer * 4 + position],
          loop: true,
          loopStart: 0.08,
          loopEnd: 1.87,
          playbackRate: 2 ** ((((v * 5) % 24) - 12) / 12),
        });
        const gain = new GainNode(context, { gain: 0.7 });
        gain.gain.linearRampToValueAtTime(0.6, SECONDS);
        source.connect(gain).connect(filter);
        source.start();
      }
      filter.connect(envelope).connect(context.destination);
    }
  const start = performance.now();
  await context.startRendering();
  return (performance.now() - start) / 1000;
}

/** P1: how many times the graph's voices the engine renders in the same time; the median of three pairs. */
export async function engineAgainstGraph(): Promise<number> {
  const ratios: number[] = [];
  for (let i = 0; i < 3; i++) {
    const engine = await engineSeconds();
    ratios.push((await graphSeconds()) / engine);
  }
  return ratios.sort((a, b) => a - b)[1];
}

/**
 * P3: how much faster than real time 40 tracks with two notes each (two layers, four positions, low-pass) are bounced with the hall,
 * every track as a file too, on all cores.
 */
export async function bounceSpeed(seconds: number): Promise<number> {
  const farlo = window.farloMeasuring;
  if (!farlo) throw new Error('no measuring handle');
  const order = heavyOrder(40, 2, seconds, farlo.soundHost.hall);
  order.events.push(...letGo(order.events, seconds * 48_000));
  const stems = new Map(order.tracks.map((_, i) => [i, `track ${i}`]));
  const start = performance.now();
  const folder = await farlo.makeFolder();
  const wishes = { format: 'i24', stems, hallFile: true, folder } as const;
  const made = await farlo.startBounce(order, wishes, () => undefined).result;
  if (made?.files.length !== 42) throw new Error('not all files came');
  const speed = seconds / ((performance.now() - start) / 1000);
  if (folder) await farlo.removeFolder(folder);
  return speed;
}

/** P2: block times while 256 stereo position-voices sound, and how far the sound fell behind the clock. */
export async function live(seconds: number): Promise<{ p99Milliseconds: number; behindSeconds: number }> {
  const farlo = window.farloMeasuring;
  if (!farlo) throw new Error('no measuring handle');
  const { instrument, audio } = heavyInstrument();
  farlo.soundHost.setInstrument({ instrument, audio });
  // By hand, so that the audio thread has all of it to do.
  farlo.soundHost.setTracks([{ instrumentId: 'heavy', mix: heavyMix, byHand: true }]);
  await farlo.soundHost.wake();
  await farlo.soundHost.live(heldVoices(1, 32).map((event) => ({ afterSeconds: 0, event })));
  await new Promise((resolve) => setTimeout(resolve, 2000));
  const keeper = await keepClock();
  const [played, clock] = [farlo.soundHost.playedSeconds, performance.now()];
  const times = await farlo.soundHost.timeBlocks(keeper.clock, seconds * 375);
  const behind = (performance.now() - clock) / 1000 - (farlo.soundHost.playedSeconds - played);
  keeper.end();
  farlo.soundHost.stop();
  // Of each third, the middle one: this machine has other things to do now and then.
  const third = Math.floor(times.length / 3);
  const p99s = [0, 1, 2].map((n) => {
    const sorted = times.slice(n * third, (n + 1) * third).sort((a, b) => a - b);
    return sorted[Math.floor(third * 0.99)];
  });
  return { p99Milliseconds: p99s.sort((a, b) => a - b)[1], behindSeconds: behind };
}

/** A clock in shared memory that a worker keeps running: the audio thread has none. */
async function keepClock(): Promise<{ clock: Float64Array; end: () => void }> {
  const memory = new SharedArrayBuffer(8);
  const keeper = new Worker(
    URL.createObjectURL(
      new Blob(['onmessage=({data})=>{const c=new Float64Array(data);for(;;)c[0]=performance.now()}']),
    ),
  );
  keeper.postMessage(memory);
  await new Promise((resolve) => setTimeout(resolve, 300));
  return { clock: new Float64Array(memory), end: () => keeper.terminate() };
}

const BLOCK_MS = (128 / 48_000) * 1000;
const STRESS_TRACKS = 60;
const STRESS_POSITIONS = ['a', 'b', 'c', 'd', 'e'];
/** Notes last so long, one after the other, so that there are always some that begin. */
const NOTE_FRAMES = 36_000;

/** What a stressed machine does. */
export interface Stress {
  /** Notes that sounded at once, on average; those that ring out among them. */
  sounding: number;
  /** Share of a core that the audio thread and the workers took. */
  audioShare: number;
  workerShares: number[];
  /** Share of blocks that came too late, and voices given up for it. */
  lateShare: number;
  givenUp: number;
}

/** A template of 60 tracks from five positions, two layers each, low-pass and hall on, played live: so many notes a track at once. */
export async function stress(notes: number, seconds: number): Promise<Stress> {
  const farlo = window.farloMeasuring;
  if (!farlo) throw new Error('no measuring handle');
  const { soundHost, meters } = farlo;
  const made = heavyInstrument(2, 4000, STRESS_POSITIONS);
  const instrument = { ...made.instrument, id: 'stress' };
  soundHost.setInstrument({ instrument, audio: made.audio });
  const positions = Object.fromEntries(
    STRESS_POSITIONS.map((id) => [id, Object.values(heavyMix.positions)[0]]),
  );
  const mix = { ...heavyMix, gainDb: -20, positions };
  soundHost.setTracks(
    Array.from({ length: STRESS_TRACKS }, () => ({ instrumentId: 'stress', mix, byHand: false })),
  );
  soundHost.setVoiceLimit(512);
  await soundHost.play(stressEvents(notes, seconds + 8));
  await new Promise((resolve) => setTimeout(resolve, 2000));
  const before = { late: meters.lateBlocks, givenUp: meters.givenUpCount, busy: soundHost.ahead.busy };
  const begun = performance.now();
  const sounding: number[] = [];
  const counting = setInterval(() => sounding.push(meters.voices), 100);
  await new Promise((resolve) => setTimeout(resolve, seconds * 1000));
  const wall = performance.now() - begun;
  clearInterval(counting);
  const busy = soundHost.ahead.busy;
  const [late, givenUp] = [meters.lateBlocks - before.late, meters.givenUpCount - before.givenUp];
  // The clock that the audio thread is timed by takes a core for itself: it comes last.
  const keeper = await keepClock();
  const times = await soundHost.timeBlocks(keeper.clock, 2 * 375);
  keeper.end();
  soundHost.stop();
  await new Promise((resolve) => setTimeout(resolve, 500));
  return {
    sounding: Math.round(sounding.reduce((sum, count) => sum + count, 0) / sounding.length),
    audioShare: times.reduce((sum, time) => sum + time, 0) / times.length / BLOCK_MS,
    workerShares: busy.map((now, i) => ((now - before.busy[i]) >>> 0) / 1000 / wall),
    lateShare: late / ((wall / BLOCK_MS) * busy.length),
    givenUp,
  };
}

function stressEvents(notes: number, seconds: number): EngineEvent[] {
  const events: EngineEvent[] = [];
  for (let track = 0; track < STRESS_TRACKS; track++) {
    events.push({ kind: 'control', frame: 0, track, controller: 1, value: 64 });
    for (let v = 0; v < notes; v++) {
      const first = ((track * 7 + v * 13) % 36) * 1000;
      for (let frame = first - NOTE_FRAMES, n = 0; frame < seconds * 48_000; frame += NOTE_FRAMES, n++) {
        const sound = track * 1_000_000 + v * 10_000 + n;
        const key = 57 + ((v * 5 + n * 7 + track) % 24);
        const start = Math.max(0, frame);
        events.push(
          {
            kind: 'start',
            frame: start,
            track,
            sound,
            articulation: 0,
            role: 'attack',
            key,
            velocity: 90,
            fromKey: 0,
            take: 0,
            offsetSeconds: 0,
            fadeInSeconds: 0,
          },
          {
            kind: 'stop',
            frame: Math.max(start + 1, frame + NOTE_FRAMES),
            track,
            sound,
            fadeSeconds: 0.05,
            release: false,
          },
        );
      }
    }
  }
  return sortEvents(events);
}

/** P10: bytes that are given out in the sound's memory, counted, against what the machine holds for it. */
export function memory(): { counted: number; held: number } {
  const memory = window.farloMeasuring?.pageMemory();
  if (!memory) throw new Error('no measuring handle');
  return { counted: memory.usedBytes, held: memory.heldBytes };
}

/** Report of an instrument with more than 20 techniques from five positions: seconds it takes, and frames of the page scrolling meanwhile. */
export async function report(library: string, name: string): Promise<{ seconds: number; frame: number }> {
  const json = async <T>(path: string, init?: RequestInit): Promise<T> =>
    (await (await fetch(`/api${path}`, init)).json()) as T;
  const libraries = await json<LibrarySummary[]>('/libraries');
  const id = libraries.find((one) => one.name === library)?.instruments.find((one) => one.name === name)?.id;
  const { guard } = await json<SessionInfo>('/session');
  const table = document.querySelector('main .overflow-auto');
  if (!id || !table) throw new Error('nothing to measure or to scroll');
  const gaps: number[] = [];
  let going = true;
  let last = performance.now();
  requestAnimationFrame(function frame(now) {
    gaps.push(now - last);
    last = now;
    table.scrollTop = (table.scrollTop + 12) % Math.max(1, table.scrollHeight - table.clientHeight);
    if (going) requestAnimationFrame(frame);
  });
  const start = performance.now();
  await json(`/instruments/${id}/report`, { method: 'POST', headers: { 'x-farlo-guard': guard } });
  while ((await json<InstrumentReport>(`/instruments/${id}/report`)).missing.length > 0)
    await new Promise((resolve) => setTimeout(resolve, 250));
  going = false;
  return {
    seconds: (performance.now() - start) / 1000,
    frame: gaps.sort((a, b) => a - b)[Math.floor(gaps.length * 0.95)],
  };
}

/** P6: from pressing a technique on the shelf to the first sounding voice; nothing sounds before. */
export async function pressToSound(technique: string): Promise<number> {
  const farlo = window.farloMeasuring;
  const button = document.querySelector<HTMLButtonElement>(`[aria-label="Hear ${technique}"]`);
  if (!farlo || !button) throw new Error(`no ${technique} to press`);
  while (farlo.meters.voices > 0) await new Promise((resolve) => setTimeout(resolve, 50));
  const start = performance.now();
  button.click();
  while (farlo.meters.voices === 0) await new Promise((resolve) => setTimeout(resolve, 2));
  return performance.now() - start;
}

/** P6: bytes a second at which the rest of an instrument is loaded by pressing “Load all”. */
export async function loadRate(): Promise<number> {
  const farlo = window.farloMeasuring;
  const button = [...document.querySelectorAll('button')].find((one) =>
    one.textContent?.startsWith('Load all'),
  );
  if (!farlo || !button) throw new Error('nothing to load');
  const held = () => farlo.useInstruments.getState().heldBytes;
  const complete = () => Object.values(farlo.useInstruments.getState().loads).every((load) => load.complete);
  const before = held();
  const start = performance.now();
  button.click();
  await new Promise((resolve) => setTimeout(resolve, 50));
  while (!complete()) await new Promise((resolve) => setTimeout(resolve, 5));
  return (held() - before) / ((performance.now() - start) / 1000);
}
