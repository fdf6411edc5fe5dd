import { describe, expect, it } from 'vitest';
import { instrumentOf, plainZone } from '../testing/fixtures.ts';
import {
  articulationTerm,
  FAMILIES,
  FAMILY_TAG,
  guessArticulation,
  instrumentRange,
  layersAndTakes,
  memoryBytes,
  playableRange,
  samplesOf,
  VOCABULARY,
} from './index.ts';

describe('the vocabulary', () => {
  it('has one term per id and per tab, and a tag per family', () => {
    expect(new Set(VOCABULARY.map((term) => term.id)).size).toBe(VOCABULARY.length);
    expect(new Set(VOCABULARY.map((term) => term.tab)).size).toBe(VOCABULARY.length);
    expect(new Set(FAMILIES.map((family) => FAMILY_TAG[family])).size).toBe(FAMILIES.length);
  });
  it('guesses a technique from words, not from parts of words', () => {
    expect(guessArticulation('01 Trem sul pont')?.term.id).toBe('tremolo, near bridge');
    expect(guessArticulation('Sus sul pont')?.term.id).toBe('near bridge');
    expect(guessArticulation('Sus con sord no vib')?.term.id).toBe('long plain, muted');
    expect(guessArticulation('LEGATO_v2')?.term.id).toBe('connected');
    expect(guessArticulation('sustain-vib')?.term.id).toBe('long');
    expect(guessArticulation('Belonging')).toBeUndefined();
  });
  it('takes an unknown id as a long technique of its own name', () => {
    expect(articulationTerm('bowed glass')).toMatchObject({ group: 'long', name: 'bowed glass', tab: 'bo' });
  });
});

describe('facts of an instrument', () => {
  const fade = (inLow: number, outHigh: number) => [
    { controller: 1, inLow, inHigh: inLow, outLow: outHigh, outHigh },
  ];
  const long = {
    id: 'long',
    name: 'long',
    zones: [
      plainZone({
        keyLow: 55,
        keyHigh: 60,
        fades: fade(0, 64),
        samples: { a: { sample: 'x' }, b: { sample: 'y' } },
      }),
      plainZone({
        keyLow: 61,
        keyHigh: 70,
        fades: fade(64, 127),
        samples: { a: { sample: 'x' }, b: { sample: 'z' } },
      }),
      plainZone({ role: 'release', keyLow: 20, keyHigh: 99, samples: { a: { sample: 'r' } } }),
    ],
  };
  const short = {
    id: 'staccato',
    name: 'st',
    zones: [0, 1, 2].map((take) => plainZone({ keyLow: 50, keyHigh: 52, take, takes: 3, samples: {} })),
  };
  const instrument = instrumentOf([long, short], new Map(), ['a', 'b']);
  const sample = (id: string, frames: number, channels: 1 | 2, format: 'i16' | 'f32') => ({
    id,
    frames,
    channels,
    format,
    rate: 48000,
    pack: 'p',
    headOffset: 0,
    headFrames: 0,
    tailOffset: 0,
  });
  instrument.samples = {
    x: sample('x', 100, 2, 'i16'),
    y: sample('y', 10, 1, 'f32'),
    z: sample('z', 1, 2, 'f32'),
    r: sample('r', 5, 1, 'i16'),
  };

  it('range only over keys that start a note', () => {
    expect(playableRange(long)).toEqual({ low: 55, high: 70 });
    expect(playableRange({ ...long, zones: [long.zones[2]] })).toBeUndefined();
    expect(instrumentRange(instrument)).toEqual({ low: 50, high: 70 });
    expect(instrumentRange({ ...instrument, articulations: [] })).toBeUndefined();
  });
  it('layers and takes', () => {
    expect(layersAndTakes(long)).toEqual({ layers: 2, takes: 1 });
    expect(layersAndTakes(short)).toEqual({ layers: 1, takes: 3 });
  });
  it('memory counts each sample once: frames × channels × bytes', () => {
    expect([...samplesOf(long, ['a'])]).toEqual(['x', 'r']);
    expect(memoryBytes(instrument, samplesOf(long, ['a', 'b']))).toBe(100 * 4 + 10 * 4 + 1 * 8 + 5 * 2);
  });
});
