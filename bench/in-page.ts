import type { InstrumentReport, LibrarySummary, SessionInfo } from '#api/index.ts';
import type { BounceOrder } from '#core/deliver/index.ts';
import { heavyMix, heavyOrder, heldVoices, letGo } from './fixtures.ts';
import { heavyInstrument } from '#core/engine/index.ts';

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
  const made = await farlo.startBounce(order, { format: 'i24', stems, hallFile: true }, () => undefined)
    .result;
  if (made?.files.length !== 42) throw new Error('not all files came');
  return seconds / ((performance.now() - start) / 1000);
}

/** P2: block times while 256 stereo position-voices sound, and how far the sound fell behind the clock. */
export async function live(seconds: number): Promise<{ p99Milliseconds: number; behindSeconds: number }> {
  const farlo = window.farloMeasuring;
  if (!farlo) throw new Error('no measuring handle');
  const { instrument, audio } = heavyInstrument();
  farlo.soundHost.setInstrument({ instrument, audio });
  farlo.soundHost.setTracks([{ instrumentId: 'heavy', mix: heavyMix, byHand: false }]);
  await farlo.soundHost.play(heldVoices(1, 32));
  await new Promise((resolve) => setTimeout(resolve, 2000));
  const memory = new SharedArrayBuffer(8);
  const keeper = new Worker(
    URL.createObjectURL(
      new Blob(['onmessage=({data})=>{const c=new Float64Array(data);for(;;)c[0]=performance.now()}']),
    ),
  );
  keeper.postMessage(memory);
  await new Promise((resolve) => setTimeout(resolve, 300));
  const [played, clock] = [farlo.soundHost.playedSeconds, performance.now()];
  const times = await farlo.soundHost.timeBlocks(new Float64Array(memory), seconds * 375);
  const behind = (performance.now() - clock) / 1000 - (farlo.soundHost.playedSeconds - played);
  keeper.terminate();
  farlo.soundHost.stop();
  return {
    p99Milliseconds: [...times].sort((a, b) => a - b)[Math.floor(times.length * 0.99)],
    behindSeconds: behind,
  };
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
