import { create } from 'zustand';
import { redo, undo } from '../state/documents.ts';
import { isTyping } from '../sound/computer-keys.ts';
import { goTo, playOrStop, recordOrStop, switchLoop } from '../sound/commands.ts';

/** A key and what it does, for the page of keys. */
export interface KeyLine {
  keys: string;
  does: string;
  /** Works without Ctrl or Alt, so that it can be switched off (WCAG 2.1.4). */
  single?: boolean;
}

/** All keys by where they work. */
export const KEY_GROUPS: readonly { where: string; lines: readonly KeyLine[] }[] = [
  {
    where: 'Everywhere',
    lines: [
      { keys: 'Space', does: 'play or stop; on a focused button, press it' },
      { keys: 'Home', does: 'to the beginning' },
      { keys: 'j', does: 'go to a bar, a time or a marker', single: true },
      { keys: '/', does: 'loop on or off', single: true },
      { keys: 'w', does: 'record on the chosen track, or end it', single: true },
      { keys: '?', does: 'this page of keys', single: true },
      { keys: 'Ctrl Z', does: 'undo' },
      { keys: 'Ctrl Shift Z', does: 'redo' },
    ],
  },
  {
    where: 'Tracks of the cue',
    lines: [
      { keys: '↑ ↓', does: 'to the track above or below' },
      { keys: 'Alt ↑ ↓', does: 'move the track up or down' },
      { keys: 'm', does: 'mute the track for yourself', single: true },
      { keys: 's', does: 'hear the track alone', single: true },
      { keys: 'F2', does: 'rename the track' },
      { keys: 'Ctrl D', does: 'duplicate the track' },
      { keys: 'Delete', does: 'delete the track' },
    ],
  },
  {
    where: 'Notes',
    lines: [
      { keys: '← →', does: 'move the chosen notes by a grid step' },
      {
        keys: '↑ ↓',
        does: 'move them by a semitone; with Shift by an octave, with Alt by a step of the scale',
      },
      { keys: 'Shift ← →', does: 'shorter or longer' },
      { keys: 'n b', does: 'to the next note, the note before', single: true },
      { keys: 'Insert', does: 'write a note at the playhead' },
      { keys: 'r', does: 'draw the chosen notes to the grid', single: true },
      { keys: 'c', does: 'close the gaps between them', single: true },
      { keys: 'z', does: 'cut overlaps of one key', single: true },
      { keys: 'x', does: 'cut them at the playhead', single: true },
      { keys: 'i', does: 'make one note of each key', single: true },
      { keys: 'a', does: 'type an articulation for the chosen notes', single: true },
      { keys: 'Ctrl A', does: 'choose all notes' },
      { keys: 'Ctrl C X V', does: 'copy, cut, paste' },
      { keys: 'Delete', does: 'remove the chosen notes' },
      { keys: 'Ctrl + − 0', does: 'closer, farther, as at first' },
      { keys: 'Page ↑ ↓', does: 'a page back or on' },
    ],
  },
  {
    where: 'Bar line and marks',
    lines: [
      { keys: 'h', does: 'held: hear from where the pointer is, and go along with it', single: true },
      { keys: '← →', does: 'playhead by a beat; with Shift the loop’s end' },
      { keys: 'l', does: 'loop begins at the playhead', single: true },
      { keys: 'k', does: 'set a marker at the playhead', single: true },
      { keys: 'F2 Delete', does: 'rename or remove a marker' },
      { keys: '← → on a mark', does: 'move it; with Shift its end' },
    ],
  },
  {
    where: 'Rulers',
    lines: [
      { keys: '← →', does: 'step; with Shift finely' },
      { keys: 'Backspace', does: 'back to the default' },
      { keys: 'Home End', does: 'least and most' },
    ],
  },
  {
    where: 'Line-ups',
    lines: [
      { keys: '← → ↑ ↓', does: 'to another contender or phrase; the sound goes on' },
      { keys: 'Enter', does: 'hear the cell' },
      { keys: 'p', does: 'prefer the contender', single: true },
      { keys: 'Escape', does: 'stop' },
    ],
  },
];

const SINGLE_KEY = 'farlo-single-keys';

/** Whether single letters and signs act as keys on this machine. */
export const useSingleKeys = create<{ on: boolean; help: boolean }>(() => ({
  on: localStorage.getItem(SINGLE_KEY) !== 'off',
  help: false,
}));

/** Whether a place to go to is being typed. */
export const useGoing = create<{ going: boolean }>(() => ({ going: false }));

export function switchSingleKeys(on: boolean): void {
  localStorage.setItem(SINGLE_KEY, on ? 'on' : 'off');
  useSingleKeys.setState({ on });
}

/** True when a single letter or sign may act as a key now. */
export function singleKeysOn(): boolean {
  return useSingleKeys.getState().on;
}

/** True for what the space bar presses or types into. */
function takesSpace(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    target.closest(
      'button, a[href], summary, [role="button"], [role="menuitem"], [role="tab"], [role="checkbox"], [role="switch"], input, select, textarea',
    ) !== null
  );
}

/** Keys that work in every view. */
export function onGlobalKey(event: KeyboardEvent): void {
  if (event.defaultPrevented || isTyping(event.target)) return;
  const command = event.ctrlKey || event.metaKey;
  const act = command ? commandOf(event) : plainOf(event);
  if (!act) return;
  event.preventDefault();
  act();
}

function commandOf(event: KeyboardEvent): (() => void) | undefined {
  const key = event.key.toLowerCase();
  if (key === 'z') return event.shiftKey ? redo : undo;
  return key === 'y' ? redo : undefined;
}

function plainOf(event: KeyboardEvent): (() => void) | undefined {
  if (event.key === ' ') return takesSpace(event.target) ? undefined : () => void playOrStop();
  if (event.key === 'Home') return () => void goTo(0);
  if (!singleKeysOn() || event.altKey) return undefined;
  if (event.key === '/') return () => void switchLoop();
  if (event.key === 'w') return () => void recordOrStop();
  if (event.key === 'j') return () => useGoing.setState({ going: true });
  return event.key === '?' ? () => useSingleKeys.setState(({ help }) => ({ help: !help })) : undefined;
}
