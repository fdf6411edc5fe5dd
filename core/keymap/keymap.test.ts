import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { entry, keymapOf, source, trigger } from '../testing/keymaps.ts';
import {
  compileKeymap,
  findAmbiguities,
  initialState,
  resolve,
  selectingOf,
  type CompiledKeymap,
  type Entry,
  type Keymap,
  type KeymapEvent,
  type KeymapState,
  type Trigger,
} from './index.ts';

const press = (key: number, velocity = 80, channel = 0): KeymapEvent => ({
  kind: 'press',
  channel,
  key,
  velocity,
});
const release = (key: number): KeymapEvent => ({ kind: 'release', key });

/** Sends events and tells what the last one, and the state after it, came to. */
function play(keymap: Keymap, events: readonly KeymapEvent[]) {
  const compiled = compileKeymap(keymap);
  let state = initialState(keymap);
  let last = resolve(compiled, state, { kind: 'release', key: 127 });
  for (const event of events) {
    last = resolve(compiled, state, event);
    state = last.state;
  }
  return last;
}
const got = (entries: readonly Entry[], ...events: KeymapEvent[]) =>
  play(keymapOf(entries), events).articulation;

describe('what a keymap makes of what is played', () => {
  it('latches, selects while held, and lets a held key go before a latched one', () => {
    const map = [
      entry('long', 24),
      entry('staccato', 25),
      entry('tremolo', [trigger({ id: 't', number: 26, hold: 'held' })]),
    ];
    expect(got(map, press(60))).toBe('long');
    expect(play(keymapOf(map), [press(25)]).taken).toBe(true);
    expect(got(map, press(25), release(25), press(60))).toBe('staccato');
    expect(got(map, press(25), press(26), press(60))).toBe('tremolo');
    expect(got(map, press(26), press(25), press(60))).toBe('tremolo');
    expect(got(map, press(26), press(25), release(26), press(60))).toBe('staccato');
    expect(play(keymapOf(map), [press(60)]).taken).toBe(false);
  });
  it('lets the held key pressed last win, and the one before it when that is let go', () => {
    const held = (id: string, number: number) => entry(id, [trigger({ id, number, hold: 'held' })]);
    const map = [entry('long', 24), held('trill half', 25), held('tremolo', 26)];
    expect(got(map, press(25), press(26), press(60))).toBe('tremolo');
    expect(got(map, press(26), press(25), press(60))).toBe('trill half');
    expect(got(map, press(26), press(25), release(25), press(60))).toBe('tremolo');
  });
  it('selects by controller range, program, bank and program, and what was moved last counts', () => {
    const map = [
      entry('long', [trigger({ id: 'a', kind: 'controller', number: 32, low: 0, high: 63 })]),
      entry('staccato', [trigger({ id: 'b', kind: 'controller', number: 32, low: 64, high: 127 })]),
      entry('tremolo', [trigger({ id: 'c', kind: 'program', number: 5 })]),
      entry('muted', [
        trigger({ id: 'd', kind: 'bank', number: 300 }),
        trigger({ id: 'e', kind: 'program', number: 6 }),
      ]),
    ];
    const to = (value: number): KeymapEvent => ({ kind: 'control', controller: 32, value });
    const program = (number: number): KeymapEvent => ({ kind: 'program', program: number });
    expect(got(map, to(64), press(60))).toBe('staccato');
    expect(got(map, to(64), to(63), press(60))).toBe('long');
    expect(got(map, to(64), program(5), press(60))).toBe('tremolo');
    expect(got(map, program(5), to(64), press(60))).toBe('staccato');
    // A program without its bank is half of the condition.
    expect(got(map, to(64), program(6), press(60))).toBe('staccato');
    expect(got(map, to(64), { kind: 'bank', bank: 300 }, program(6), press(60))).toBe('muted');
  });
  it('selects by the note itself: its velocity, its channel, and both together with a key', () => {
    const hard = trigger({ id: 'v', kind: 'velocity', low: 110, high: 127 });
    const map = [
      entry('long', 24),
      entry('accented', [hard]),
      entry('staccato', 25),
      entry('snapped', [trigger({ id: 'k', number: 25 }), { ...hard, id: 'w' }]),
      entry('tremolo', [trigger({ id: 'c', kind: 'channel', number: 3 })]),
    ];
    expect(got(map, press(60, 109))).toBe('long');
    expect(got(map, press(60, 110))).toBe('accented');
    expect(got(map, press(25), press(60, 120))).toBe('snapped');
    expect(got(map, press(25), press(60, 60))).toBe('staccato');
    expect(got(map, press(60, 60, 3))).toBe('tremolo');
  });
  it('takes any one of several sets of triggers, and what is chosen by name', () => {
    const map = [
      entry('long', 24),
      entry('staccato', [
        trigger({ id: 'a', number: 25 }),
        trigger({ id: 'b', kind: 'program', number: 1, set: 1 }),
      ]),
    ];
    expect(got(map, press(25), press(60))).toBe('staccato');
    expect(got(map, { kind: 'program', program: 1 }, press(60))).toBe('staccato');
    expect(got(map, press(25), { kind: 'choose', articulation: 'long' }, press(60))).toBe('long');
    expect(got(map, { kind: 'choose', articulation: 'long' }, press(25), press(60))).toBe('staccato');
    // A name that the keymap does not know sounds as itself.
    expect(play(keymapOf(map), [{ kind: 'choose', articulation: 'harmonics' }, press(60)])).toMatchObject({
      articulation: 'harmonics',
      sources: [{ articulation: 'harmonics' }],
    });
  });
  it('tells what sounds, split by velocity or layered, and why', () => {
    const map = [
      entry('pizzicato', 24, {
        sources: [
          source('pizzicato', { velocityHigh: 111 }),
          source('snapped', { velocityLow: 112 }),
          source('off the string', { levelDb: -9 }),
        ],
      }),
    ];
    const soft = play(keymapOf(map), [press(24), press(60, 111)]);
    expect(soft.sources.map((one) => one.articulation)).toEqual(['pizzicato', 'off the string']);
    expect(soft.because).toEqual(map[0].triggers);
    const loud = play(keymapOf(map), [press(24), press(60, 112)]);
    expect(loud.sources.map((one) => one.articulation)).toEqual(['snapped', 'off the string']);
  });
});

/** Triggers in few values, so that they meet; keymaps with clashes among them. */
const anyTrigger = fc.record({
  id: fc.uuid(),
  kind: fc.constantFrom<Trigger['kind']>(
    'key',
    'controller',
    'program',
    'bank',
    'velocity',
    'channel',
    'track',
  ),
  set: fc.integer({ min: 0, max: 1 }),
  number: fc.integer({ min: 0, max: 4 }),
  low: fc.constantFrom(0, 40, 64),
  high: fc.constantFrom(63, 100, 127),
  hold: fc.constantFrom<Trigger['hold']>('latching', 'held'),
});
const NAMES = ['long', 'staccato', 'tremolo', 'muted', 'pizzicato'];
const anyKeymap = fc
  .array(fc.array(anyTrigger, { maxLength: 4 }), { minLength: 1, maxLength: 5 })
  .map((lists) => keymapOf(lists.map((triggers, i) => entry(NAMES[i], triggers))));
const anyEvent: fc.Arbitrary<KeymapEvent> = fc.oneof(
  fc.record({
    kind: fc.constant('press' as const),
    channel: fc.integer({ min: 0, max: 4 }),
    key: fc.integer({ min: -1, max: 8 }),
    velocity: fc.integer({ min: 1, max: 127 }),
  }),
  fc.record({ kind: fc.constant('release' as const), key: fc.integer({ min: 0, max: 8 }) }),
  fc.record({
    kind: fc.constant('control' as const),
    controller: fc.integer({ min: 0, max: 4 }),
    value: fc.integer({ min: 0, max: 127 }),
  }),
  fc.record({ kind: fc.constant('program' as const), program: fc.integer({ min: 0, max: 4 }) }),
  fc.record({ kind: fc.constant('bank' as const), bank: fc.integer({ min: 0, max: 4 }) }),
  fc.record({ kind: fc.constant('choose' as const), articulation: fc.constantFrom(...NAMES, 'harmonics') }),
);

function after(compiled: CompiledKeymap, events: readonly KeymapEvent[]): KeymapState {
  return events.reduce(
    (state, event) => resolve(compiled, state, event).state,
    initialState(compiled.keymap),
  );
}

describe('whatever is played', () => {
  it('has one answer, the same each time, and the same event again changes nothing more', () => {
    fc.assert(
      fc.property(anyKeymap, fc.array(anyEvent, { maxLength: 12 }), anyEvent, (keymap, events, event) => {
        const compiled = compileKeymap(keymap);
        const state = after(compiled, events);
        const frozen = JSON.stringify(state);
        const once = resolve(compiled, state, event);
        expect(JSON.stringify(state)).toBe(frozen);
        expect(resolve(compileKeymap(keymap), state, event)).toEqual(once);
        const twice = resolve(compiled, once.state, event);
        expect(twice.state).toEqual(once.state);
        expect([twice.articulation, twice.sources, twice.taken]).toEqual([
          once.articulation,
          once.sources,
          once.taken,
        ]);
        // A note that is no switch always sounds exactly one articulation.
        if (event.kind === 'press' && !once.taken) expect(once.sources.length).toBe(1);
      }),
      { numRuns: 400 },
    );
  });
  it('does not hang on the order of entries unless the keymap is found ambiguous', () => {
    let clean = 0;
    fc.assert(
      fc.property(anyKeymap, fc.array(anyEvent, { maxLength: 12 }), (keymap, events) => {
        if (findAmbiguities(keymap).length > 0) return;
        clean++;
        const turned = { ...keymap, entries: [...keymap.entries].reverse() };
        const note: KeymapEvent = { kind: 'press', channel: 1, key: 100, velocity: 90 };
        const [a, b] = [compileKeymap(keymap), compileKeymap(turned)];
        expect(resolve(b, after(b, events), note).articulation).toBe(
          resolve(a, after(a, events), note).articulation,
        );
      }),
      { numRuns: 600 },
    );
    expect(clean).toBeGreaterThan(60);
  });
  it('can be selected again by what `selectingOf` says, or by no trigger at all', () => {
    let selected = 0;
    fc.assert(
      fc.property(
        anyKeymap,
        fc.array(anyEvent, { maxLength: 6 }),
        fc.integer({ min: 0, max: 4 }),
        (keymap, events, which) => {
          const compiled = compileKeymap(keymap);
          const state = after(compiled, events);
          const wanted = keymap.entries[which % keymap.entries.length].articulation;
          const found = selectingOf(compiled, state, wanted, { channel: 2, velocity: 70 });
          if (!found) return;
          selected++;
          const ready = found.before.reduce((now, event) => resolve(compiled, now, event).state, state);
          const { channel, velocity } = found;
          const note = resolve(compiled, ready, { kind: 'press', channel, key: 100, velocity });
          expect(note.articulation).toBe(wanted);
          const letGo = found.heldKeys.reduce(
            (now, key) => resolve(compiled, now, { kind: 'release', key }).state,
            ready,
          );
          expect(found.state).toEqual(letGo);
        },
      ),
      { numRuns: 400 },
    );
    expect(selected).toBeGreaterThan(100);
  });
});
