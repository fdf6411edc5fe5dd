import { describe, expect, it } from 'vitest';
import { plainZone, instrumentOf } from '../testing/fixtures.ts';
import { findClashes, freeKey, initialKeymap, TriggerState, type Trigger } from './index.ts';

const zone = (keyLow: number, keyHigh: number) => plainZone({ keyLow, keyHigh, samples: {} });
const instrument = instrumentOf(
  [
    { id: 'long', name: 'long', suggestedKey: 24, zones: [zone(55, 94)] },
    { id: 'staccato', name: 'st', suggestedKey: 60, zones: [zone(55, 90)] },
  ],
  new Map(),
);
const trigger = (
  id: string,
  articulation: string,
  key: number,
  hold: Trigger['hold'] = 'latching',
): Trigger => ({ id, articulation, key, hold });

describe('clashes', () => {
  it('lets a clean keymap pass', () => {
    expect(findClashes([trigger('a', 'long', 24), trigger('b', 'staccato', 25)], instrument)).toEqual([]);
  });
  it('names a switch inside the playable range and offers a free key', () => {
    const [clash] = findClashes([trigger('a', 'long', 60)], instrument);
    expect(clash.sentence).toContain('C4 is a note that Test section play');
    expect(clash.betterKey).toBe(54);
  });
  it('names the second of two triggers on one key', () => {
    const clashes = findClashes([trigger('a', 'long', 24), trigger('b', 'staccato', 24)], instrument);
    expect(clashes.map((c) => c.triggerId)).toEqual(['b']);
    expect(clashes[0].sentence).toContain('already selects long');
  });
  it('writes keys in the counting that is preferred', () => {
    expect(findClashes([trigger('a', 'long', 60)], instrument, 3)[0].sentence).toContain('C3');
  });
  it('finds no free key where there is none', () => {
    const full = Array.from({ length: 128 }, (_, key) => trigger(String(key), 'long', key));
    expect(freeKey(full, instrument, 60)).toBeUndefined();
  });
});

describe('first keymap', () => {
  it('keeps the maker’s keys and moves those that would clash', () => {
    const map = initialKeymap(instrument);
    expect(map.find((t) => t.articulation === 'long')?.key).toBe(24);
    expect(map.find((t) => t.articulation === 'staccato')?.key).toBe(54);
  });
});

describe('trigger state', () => {
  it('latches, and holds only while held', () => {
    const state = new TriggerState(
      [trigger('a', 'long', 24), trigger('b', 'staccato', 25), trigger('c', 'tremolo', 26, 'held')],
      'long',
    );
    expect(state.press(60)).toBe(false);
    expect(state.press(25)).toBe(true);
    state.release(25);
    expect(state.current).toBe('staccato');
    state.press(26);
    expect(state.current).toBe('tremolo');
    state.release(26);
    expect(state.current).toBe('staccato');
  });
});
