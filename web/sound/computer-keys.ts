import { sendFrom, type MidiSource } from './midi.ts';

const COMPUTER: MidiSource = { id: 'computer', name: 'Computer keys' };
/** Physical keys from C upwards: the middle row plays the white keys, the row above the black ones. */
const ROW: Record<string, number> = {
  KeyA: 0,
  KeyW: 1,
  KeyS: 2,
  KeyE: 3,
  KeyD: 4,
  KeyF: 5,
  KeyT: 6,
  KeyG: 7,
  KeyY: 8,
  KeyH: 9,
  KeyU: 10,
  KeyJ: 11,
  KeyK: 12,
  KeyO: 13,
  KeyL: 14,
  KeyP: 15,
  Semicolon: 16,
};
const VELOCITY = 90;

/** Lets the letter keys play while `enabled` says so. @returns a function that ends it */
export function playWithComputerKeys(enabled: () => boolean, octaveStart: () => number): () => void {
  const held = new Map<string, number>();
  const down = (event: KeyboardEvent) => {
    if (
      !enabled() ||
      event.ctrlKey ||
      event.metaKey ||
      event.altKey ||
      !(event.code in ROW) ||
      isTyping(event.target)
    )
      return;
    event.preventDefault();
    if (event.repeat || held.has(event.code)) return;
    const key = octaveStart() + ROW[event.code];
    held.set(event.code, key);
    sendFrom(COMPUTER, [0x90, key, VELOCITY], event.timeStamp);
  };
  const up = (event: KeyboardEvent) => {
    const key = held.get(event.code);
    if (key === undefined) return;
    held.delete(event.code);
    sendFrom(COMPUTER, [0x80, key, 0], event.timeStamp);
  };
  const allUp = () => {
    for (const key of held.values()) sendFrom(COMPUTER, [0x80, key, 0]);
    held.clear();
  };
  addEventListener('keydown', down);
  addEventListener('keyup', up);
  addEventListener('blur', allUp);
  return () => {
    allUp();
    removeEventListener('keydown', down);
    removeEventListener('keyup', up);
    removeEventListener('blur', allUp);
  };
}

/** True in fields where letters are text. */
export function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || ['INPUT', 'SELECT', 'TEXTAREA'].includes(target.tagName))
  );
}
