import { describe, expect, it } from 'vitest';
import { plainZone } from '../testing/fixtures.ts';
import { measureLayers } from './layers.ts';

const RATE = 48_000;
const wave = (hertz: number, phase = 0, level = 0.5) =>
  Float32Array.from({ length: RATE }, (_, i) => level * Math.sin((2 * Math.PI * hertz * i) / RATE + phase));
const fade = { controller: 1, inLow: 0, inHigh: 0, outLow: 40, outHigh: 80 };

describe('how alike layers are', () => {
  const sounds: Record<string, Float32Array> = {
    soft: wave(440, 0, 0.1),
    loud: wave(440, 0, 0.8),
    opposed: wave(440, Math.PI),
    quarter: wave(440, Math.PI / 3),
    other: wave(555),
  };
  const audioOf = (sample: string) =>
    sounds[sample] && { channels: [sounds[sample], sounds[sample]], rate: RATE };
  const zone = (sample: string, more = {}) =>
    plainZone({ samples: { close: { sample } }, fades: [fade], ...more });
  it('is told by their waves, whatever their level', () => {
    const zones = ['soft', 'loud', 'opposed', 'quarter', 'other'].map((name) => zone(name));
    measureLayers(zones, audioOf);
    const [soft] = zones;
    expect(soft.alike?.loud).toBeCloseTo(1, 2);
    expect(soft.alike?.opposed).toBeCloseTo(-1, 2);
    // cos 60°
    expect(soft.alike?.quarter).toBeCloseTo(0.5, 1);
    expect(Math.abs(soft.alike?.other ?? 9)).toBeLessThan(0.05);
    expect(zones[1].alike?.soft).toBe(soft.alike?.loud);
    expect(soft.alike?.soft).toBeUndefined();
  });
  it('is asked only of what one note can sound at once, and of what a controller blends', () => {
    const of = (more: object, other: object = {}) => {
      const zones = [zone('soft', other), zone('loud', more)];
      measureLayers(zones, audioOf);
      return zones[0].alike;
    };
    expect(of({ keyLow: 70 }, { keyHigh: 69 })).toBeUndefined();
    expect(of({ velocityLow: 64 }, { velocityHigh: 63 })).toBeUndefined();
    expect(of({ take: 1 })).toBeUndefined();
    expect(of({ rootKey: 60 })).toBeUndefined();
    expect(of({ fades: [] })).toBeUndefined();
    expect(of({ role: 'release' })).toBeUndefined();
    expect(of({ tuneCents: 5 })).toBeUndefined();
    expect(of({ keyLow: 69 }, { keyHigh: 69 })).toBeDefined();
  });
  it('is left open while a recording is missing', () => {
    const zones = [zone('soft'), zone('gone')];
    measureLayers(zones, audioOf);
    expect(zones[0].alike).toBeUndefined();
  });
});
