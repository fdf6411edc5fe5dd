import { create } from 'zustand';

/** Three bytes of a channel message. */
export type MidiBytes = readonly [status: number, data1: number, data2: number];

/** Something that sends MIDI: a connected keyboard, or the stand-in. */
export interface MidiSource {
  id: string;
  name: string;
}

interface MidiState {
  sources: readonly MidiSource[];
  /** Why connected keyboards cannot be used, in a sentence. */
  trouble: string | undefined;
  asked: boolean;
}

export const STAND_IN: MidiSource = { id: 'stand-in', name: 'Stand-in keyboard' };

/** MIDI inputs there are. Every message, from whatever source, goes the same way. */
export const useMidi = create<MidiState>(() => ({ sources: [STAND_IN], trouble: undefined, asked: false }));

/** @param atMs when it came, by the page's clock */
type Receiver = (bytes: MidiBytes, source: MidiSource, atMs: number) => void;
let receiver: Receiver = () => undefined;
let onLost: () => void = () => undefined;
const overhearing = new Set<(bytes: MidiBytes, atMs: number) => void>();

/** Lets something else hear all messages too, for example what writes down what is played. @returns a function that ends it */
export function overhearMidi(listener: (bytes: MidiBytes, atMs: number) => void): () => void {
  overhearing.add(listener);
  return () => overhearing.delete(listener);
}

/** Says who takes the messages, and who is told when a keyboard is unplugged. */
export function receiveMidi(take: Receiver, lost: () => void): void {
  receiver = take;
  onLost = lost;
}

/** Sends a message as if it came in from a source. @param atMs when it came, by the page's clock; now unless given */
export function sendFrom(source: MidiSource, bytes: MidiBytes, atMs = performance.now()): void {
  for (const listener of overhearing) listener(bytes, atMs);
  receiver(bytes, source, atMs);
}

/** Asks the browser for connected keyboards and follows them as they come and go. */
export async function connectMidi(): Promise<void> {
  if (!('requestMIDIAccess' in navigator)) {
    useMidi.setState({
      asked: true,
      trouble: 'This browser knows no MIDI keyboards. The stand-in and the computer keys work all the same.',
    });
    return;
  }
  try {
    const access = await navigator.requestMIDIAccess();
    const refresh = () => {
      const inputs = [...access.inputs.values()].filter((input) => input.state !== 'disconnected');
      const sources = inputs.map((input) => ({ id: input.id, name: input.name ?? 'MIDI keyboard' }));
      const before = useMidi.getState().sources;
      if (before.some((old) => old.id !== STAND_IN.id && !sources.some((now) => now.id === old.id))) onLost();
      inputs.forEach((input, i) => {
        input.onmidimessage = ({ data, timeStamp }) => {
          // The time of the keyboard, not that at which the page came to it.
          if (data && data.length >= 2) sendFrom(sources[i], [data[0], data[1], data[2] ?? 0], timeStamp);
        };
      });
      useMidi.setState({ sources: [STAND_IN, ...sources], trouble: undefined, asked: true });
    };
    access.onstatechange = refresh;
    refresh();
  } catch {
    useMidi.setState({
      asked: true,
      trouble: 'The browser refused access to MIDI keyboards. Allow it in the page settings and ask again.',
    });
  }
}
