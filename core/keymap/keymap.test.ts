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
  it('counts both ends of a range in, and takes nothing for moved that has not been', () => {
    const ranged = (low: number, high: number, kind: 'controller' | 'velocity' = 'controller') => [
      entry('long', 24),
      entry('tremolo', [trigger({ id: 't', kind, number: 32, low, high })]),
    ];
    const moved = (value: number) =>
      got(ranged(40, 80), { kind: 'control', controller: 32, value }, press(60));
    expect([39, 40, 80, 81].map(moved)).toEqual(['long', 'tremolo', 'tremolo', 'long']);
    const struck = (velocity: number) => got(ranged(40, 80, 'velocity'), press(60, velocity));
    expect([39, 40, 80, 81].map(struck)).toEqual(['long', 'tremolo', 'tremolo', 'long']);
    // A range from 0 up does not hold until its controller is moved to 0.
    expect(got(ranged(0, 10), press(60))).toBe('long');
    expect(got(ranged(0, 10), { kind: 'control', controller: 33, value: 5 }, press(60))).toBe('long');
    expect(got(ranged(0, 10), { kind: 'control', controller: 32, value: 0 }, press(60))).toBe('tremolo');
    // One value is a range.
    expect(got(ranged(7, 7), { kind: 'control', controller: 32, value: 7 }, press(60))).toBe('tremolo');
  });
  it('knows the keys of MIDI, first to last, and no others', () => {
    const map = [entry('long', 0), entry('tremolo', 127)];
    expect(got(map, press(127), press(60))).toBe('tremolo');
    expect(got(map, press(127), press(0), press(60))).toBe('long');
    const beyond = compileKeymap(keymapOf([entry('muted', 128), entry('hit', -1)]));
    expect([...beyond.switches].some((kind) => kind !== 0)).toBe(false);
  });
  it('takes the switch key itself out of what sounds, latching or held, and its release too', () => {
    const held = trigger({ id: 'h', number: 25, hold: 'held' });
    const map = keymapOf([entry('long', 24), entry('tremolo', [held])]);
    expect(play(map, [press(24)])).toMatchObject({ taken: true, sources: [] });
    expect(play(map, [press(25)])).toMatchObject({ taken: true, articulation: 'tremolo', because: [held] });
    expect(play(map, [press(25), release(25)])).toMatchObject({ taken: true, articulation: 'long' });
    expect(play(map, [release(24)]).taken).toBe(true);
    expect(play(map, [press(60)]).taken).toBe(false);
    expect(play(map, [release(60)]).taken).toBe(false);
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

describe('what has to be sent for an articulation', () => {
  const bank = trigger({ id: 'b', kind: 'bank', number: 3 });
  const program = trigger({ id: 'p', kind: 'program', number: 9 });
  const held = trigger({ id: 'h', number: 25, hold: 'held' });
  const range = trigger({ id: 'c', kind: 'controller', number: 32, low: 40, high: 80 });
  const loud = trigger({ id: 'v', kind: 'velocity', low: 100, high: 120 });
  const channel = trigger({ id: 'n', kind: 'channel', number: 6 });
  const select = (triggers: readonly Trigger[], note = { channel: 2, velocity: 70 }) => {
    const compiled = compileKeymap(keymapOf([entry('long', 24), entry('tremolo', triggers)]));
    return selectingOf(compiled, initialState(compiled.keymap), 'tremolo', note);
  };
  it('goes out bank, program, controller, key, however its conditions stand', () => {
    for (const triggers of [
      [held, range, program, bank],
      [bank, program, range, held],
    ])
      expect(select(triggers)).toMatchObject({
        before: [
          { kind: 'bank', bank: 3 },
          { kind: 'program', program: 9 },
          { kind: 'control', controller: 32, value: 60 },
          { kind: 'press', channel: 0, key: 25 },
        ],
        heldKeys: [25],
        channel: 2,
        velocity: 70,
      });
  });
  it('moves the note itself no further than into its range, and onto its channel', () => {
    expect(select([loud])).toMatchObject({ before: [], heldKeys: [], velocity: 100, channel: 2 });
    expect(select([loud], { channel: 2, velocity: 127 })).toMatchObject({ velocity: 120 });
    expect(select([loud], { channel: 2, velocity: 111 })).toMatchObject({ velocity: 111 });
    expect(select([channel])).toMatchObject({ before: [], channel: 6, velocity: 70 });
  });
  it('is nothing while it holds, and is not to be had without a trigger', () => {
    expect(select([])).toBeUndefined();
    const compiled = compileKeymap(keymapOf([entry('long', 24), entry('tremolo', [held])]));
    const state = initialState(compiled.keymap);
    expect(selectingOf(compiled, state, 'long', { channel: 0, velocity: 1 })).toEqual({
      before: [],
      heldKeys: [],
      channel: 0,
      velocity: 1,
      state,
    });
    expect(selectingOf(compiled, state, 'muted', { channel: 0, velocity: 1 })).toBeUndefined();
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
