import { afterAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { playWithComputerKeys } from './computer-keys.ts';
import {
  connectMidi,
  overhearMidi,
  receiveMidi,
  sendFrom,
  STAND_IN,
  useMidi,
  type MidiBytes,
} from './midi.ts';

class Field {
  isContentEditable = false;
  constructor(readonly tagName: string) {}
}
const target = new EventTarget();
vi.stubGlobal('HTMLElement', Field);
for (const name of ['addEventListener', 'removeEventListener'] as const)
  vi.stubGlobal(name, target[name].bind(target));
afterAll(() => vi.unstubAllGlobals());

let heard: [MidiBytes, string][];
let lost: number;
beforeEach(() => {
  heard = [];
  lost = 0;
  receiveMidi(
    (bytes, source) => heard.push([bytes, source.name]),
    () => lost++,
  );
  useMidi.setState({ sources: [STAND_IN], trouble: undefined, asked: false });
});

describe('connected keyboards', () => {
  const input = (id: string, name: string | null, state = 'connected') => ({
    id,
    name,
    state,
    onmidimessage: undefined as ((event: { data: Uint8Array | null }) => void) | undefined,
  });
  const connect = async (inputs: Map<string, ReturnType<typeof input>>) => {
    const access = { inputs, onstatechange: undefined as (() => void) | undefined };
    vi.stubGlobal('navigator', { requestMIDIAccess: () => Promise.resolve(access) });
    await connectMidi();
    return access;
  };

  it('are listed beside the stand-in, and heard', async () => {
    const one = input('1', 'Grand');
    await connect(
      new Map([
        ['1', one],
        ['2', input('2', null)],
        ['3', input('3', 'Off', 'disconnected')],
      ]),
    );
    expect(useMidi.getState()).toMatchObject({ trouble: undefined, asked: true });
    expect(useMidi.getState().sources.map(({ name }) => name)).toEqual([
      'Stand-in keyboard',
      'Grand',
      'MIDI keyboard',
    ]);
    one.onmidimessage?.({ data: Uint8Array.of(0x90, 60, 99) });
    one.onmidimessage?.({ data: Uint8Array.of(0xc0, 5) });
    one.onmidimessage?.({ data: Uint8Array.of(0xf8) });
    one.onmidimessage?.({ data: null });
    expect(heard).toEqual([
      [[0x90, 60, 99], 'Grand'],
      [[0xc0, 5, 0], 'Grand'],
    ]);
  });

  it('that are unplugged are told, once, and those that come are taken up', async () => {
    const inputs = new Map([['1', input('1', 'Grand')]]);
    const access = await connect(inputs);
    expect(lost).toBe(0);
    inputs.set('2', input('2', 'Small'));
    access.onstatechange?.();
    expect([lost, useMidi.getState().sources.length]).toEqual([0, 3]);
    inputs.delete('1');
    access.onstatechange?.();
    access.onstatechange?.();
    expect([lost, useMidi.getState().sources.map(({ id }) => id)]).toEqual([1, ['stand-in', '2']]);
  });

  it('that the browser does not know or does not give are told in a sentence', async () => {
    vi.stubGlobal('navigator', {});
    await connectMidi();
    expect(useMidi.getState().trouble).toContain('knows no MIDI keyboards');
    expect(useMidi.getState().asked).toBe(true);
    vi.stubGlobal('navigator', { requestMIDIAccess: () => Promise.reject(new Error('no')) });
    await connectMidi();
    expect(useMidi.getState().trouble).toContain('refused access');
  });

  it('can be overheard', () => {
    const also: MidiBytes[] = [];
    const end = overhearMidi((bytes) => also.push(bytes));
    sendFrom(STAND_IN, [0x90, 1, 2]);
    end();
    sendFrom(STAND_IN, [0x80, 1, 2]);
    expect(also).toEqual([[0x90, 1, 2]]);
    expect(heard).toHaveLength(2);
  });
});

describe('the letter keys', () => {
  const key = (type: 'keydown' | 'keyup', code: string, more: object = {}) => {
    const event = Object.assign(new Event(type, { cancelable: true }), { code, repeat: false, ...more });
    target.dispatchEvent(event);
    return event.defaultPrevented;
  };
  const notes = () => heard.map(([bytes]) => [...bytes]);

  it('play from an octave on, and let go of the key they began', () => {
    let octave = 48;
    const end = playWithComputerKeys(
      () => true,
      () => octave,
    );
    expect(key('keydown', 'KeyA')).toBe(true);
    key('keydown', 'KeyA', { repeat: true });
    key('keydown', 'KeyA');
    octave = 60;
    key('keydown', 'Semicolon');
    key('keyup', 'KeyA');
    key('keyup', 'KeyA');
    end();
    expect(notes()).toEqual([
      [0x90, 48, 90],
      [0x90, 76, 90],
      [0x80, 48, 0],
      [0x80, 76, 0],
    ]);
    key('keydown', 'KeyA');
    expect(notes()).toHaveLength(4);
  });

  it('have white keys in the middle row and black ones above', () => {
    const end = playWithComputerKeys(
      () => true,
      () => 0,
    );
    for (const code of ['KeyA', 'KeyS', 'KeyD', 'KeyF', 'KeyG', 'KeyH', 'KeyJ', 'KeyK', 'KeyL'])
      key('keydown', code);
    expect(notes().map(([, note]) => note)).toEqual([0, 2, 4, 5, 7, 9, 11, 12, 14]);
    heard = [];
    for (const code of ['KeyW', 'KeyE', 'KeyT', 'KeyY', 'KeyU', 'KeyO', 'KeyP']) key('keydown', code);
    expect(notes().map(([, note]) => note)).toEqual([1, 3, 6, 8, 10, 13, 15]);
    end();
  });

  it('leave shortcuts, fields and other keys alone, and let go when the window loses the keys', () => {
    let enabled = true;
    const end = playWithComputerKeys(
      () => enabled,
      () => 0,
    );
    for (const more of [{ ctrlKey: true }, { metaKey: true }, { altKey: true }])
      expect(key('keydown', 'KeyA', more)).toBe(false);
    key('keydown', 'KeyQ');
    for (const tag of ['INPUT', 'SELECT', 'TEXTAREA']) {
      const event = Object.assign(new Event('keydown'), { code: 'KeyA' });
      Object.defineProperty(event, 'target', { value: new Field(tag) });
      target.dispatchEvent(event);
    }
    enabled = false;
    key('keydown', 'KeyA');
    expect(notes()).toEqual([]);
    enabled = true;
    key('keydown', 'KeyS');
    target.dispatchEvent(new Event('blur'));
    expect(notes()).toEqual([
      [0x90, 2, 90],
      [0x80, 2, 0],
    ]);
    end();
  });
});
