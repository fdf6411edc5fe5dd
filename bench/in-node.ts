import { engineFor } from '#core/deliver/index.ts';
import { CORE_TERMS } from '#core/catalogue/index.ts';
import { Agreement, findClashes, plainTrigger } from '#core/keymap/index.ts';
import { TempoMap, type Note, type Part } from '#core/music/index.ts';
import { planPart } from '#core/performance/index.ts';
import { heavyMix, heavyOrder } from './fixtures.ts';
import { heavyInstrument } from '#core/engine/index.ts';

/** Figures that need no browser, as JSON on standard output. Built by Vite so that the code is what ships. */

const SILENT_HALL = { left: new Float32Array(1), right: new Float32Array(1), earlyFrames: 0 };

function renderSeconds(engine: ReturnType<typeof engineFor>, seconds: number): number {
  const left = new Float32Array(128);
  const right = new Float32Array(128);
  const blocks = Math.round((seconds * 48_000) / 128);
  const start = performance.now();
  for (let b = 0; b < blocks; b++) engine.renderMix(left, right);
  return (performance.now() - start) / 1000;
}

/** Milliseconds to look over the keymaps of a template of 1,000 tracks, 20 articulations each, every track with keys of its own. */
function keymapCheck(): number {
  const ids = CORE_TERMS.slice(0, 20).map(({ id }) => id);
  const keymaps = Array.from({ length: 1000 }, (_, track) => ({
    variantOf: '',
    keymap: {
      id: `keymap ${track}`,
      name: `Track ${track}`,
      initial: ids[0],
      entries: ids.map((articulation, i) => ({
        id: `${track} ${i}`,
        articulation,
        sources: [],
        triggers: [{ id: `${track} ${i}`, ...plainTrigger({ number: (track + i * 3) % 60 }) }],
      })),
    },
  }));
  const runs = Array.from({ length: 3 }, () => {
    const start = performance.now();
    const agreement = new Agreement(keymaps);
    let clashes = 0;
    for (const voice of keymaps)
      clashes += findClashes(voice.keymap, {
        ranges: [{ low: 48, high: 90, name: voice.keymap.name }],
        elsewhere: agreement.elsewhere(voice),
      }).length;
    if (clashes === 0) throw new Error('nothing was looked at');
    return performance.now() - start;
  });
  return median(runs);
}

const median = (list: number[]) => [...list].sort((a, b) => a - b)[list.length >> 1];

/** P1b: nanoseconds per frame of a voice a semitone up, from four stereo positions, as the loop in C reads it. */
function innerLoop(layers: number): number {
  const voices = 16;
  const order = heavyOrder(1, voices, 1, SILENT_HALL, heavyInstrument(layers, 0));
  for (const event of order.events) if (event.kind === 'start') event.key = 70;
  const engine = engineFor(order);
  renderSeconds(engine, 2);
  const runs = Array.from({ length: 5 }, () => renderSeconds(engine, 4));
  return (median(runs) * 1e9) / (4 * 48_000 * voices);
}

function partOf(count: number): Part {
  const notes: Note[] = Array.from({ length: count }, (_, i) => ({
    id: `n${i}`,
    startTick: i * 240,
    endTick: i * 240 + 240,
    key: 60 + ((i * 7) % 12),
    velocity: 90,
  }));
  return {
    notes,
    marks: [],
    points: [
      { id: 'p', controller: 1, tick: 0, value: 10 },
      { id: 'q', controller: 1, tick: count * 240, value: 120 },
    ],
  };
}

/** P4: milliseconds to plan from cold and after an edit of one note. */
function planning(count: number): { cold: number; edit: number } {
  const { instrument } = heavyInstrument();
  const context = {
    tempo: new TempoMap([{ tick: 0, bpm: 100 }]),
    instrument,
    mix: heavyMix,
    mode: 'planned' as const,
    articulation: 'long',
  };
  const part = partOf(count);
  const cold: number[] = [];
  const edits: number[] = [];
  for (let run = 0; run < 5; run++) {
    let start = performance.now();
    const plan = planPart(part, context);
    cold.push(performance.now() - start);
    const at = Math.floor(count / 2) + run;
    const edited = { ...part, notes: part.notes.map((note, i) => (i === at ? { ...note, key: 61 } : note)) };
    start = performance.now();
    planPart(edited, context, plan);
    edits.push(performance.now() - start);
  }
  return { cold: median(cold), edit: median(edits) };
}

console.log(
  JSON.stringify({
    oneLayer: innerLoop(1),
    twoLayers: innerLoop(2),
    keymaps: keymapCheck(),
    small: planning(10_000),
    large: planning(100_000),
  }),
);
