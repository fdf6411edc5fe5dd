import { CONTROLLER, type Note, type Part } from '../music/index.ts';
import type { HearIt } from '../report/index.ts';
import { TICKS_PER_QUARTER } from '../units/index.ts';
import type { KeyRange, WrittenPhrase } from './phrases.ts';

/** Tempo findings are played at: a quarter is half a second. */
export const HEAR_BPM = 120;

/** What makes a finding heard, written for the engine. Keys outside the range are left out. */
export function writeHearing(hear: HearIt, range: KeyRange): WrittenPhrase {
  const notes: Note[] = [];
  const marks: Part['marks'][number][] = [];
  const keys = hear.keys.filter((key) => key >= range.low && key <= range.high);
  let at = 0;
  const add = (key: number, quarters: number, sounding = 0.95) => {
    const startTick = Math.round(at * TICKS_PER_QUARTER);
    notes.push({
      id: `hear ${notes.length}`,
      startTick,
      endTick: startTick + Math.round(quarters * sounding * TICKS_PER_QUARTER),
      key,
      velocity: hear.velocity ?? 92,
    });
    return startTick;
  };
  const dynamics: [number, number][] = [[0, 84]];
  switch (hear.shape) {
    case 'rise':
      dynamics.splice(0, 1, [0, 20], [6, 127], [12, 20]);
      for (const key of keys) add(key, 12);
      at = 13;
      break;
    case 'repeat':
      for (let i = 0; i < 12; i++) {
        for (const key of keys) add(key, 0.5, 0.5);
        at += 0.5;
      }
      break;
    case 'chord':
      for (const key of keys) {
        add(key, 2);
        at += 2.2;
      }
      for (const key of keys) add(key, 4);
      at += 4.5;
      break;
    case 'move':
      for (let i = 0; i < 4; i++)
        for (const key of keys) {
          add(key, 2, 1);
          at += 2;
        }
      break;
    case 'pair':
      for (let i = 0; i < 2; i++)
        for (const key of keys) {
          add(key, 1.4);
          at += 1.5;
          if (hear.against === undefined) continue;
          const other = add(key, 1.4);
          marks.push({
            id: `hear mark ${other}`,
            startTick: other,
            endTick: other + 1,
            articulation: hear.against,
          });
          at += 1.5;
        }
      break;
    default:
      for (const key of keys) add(key, 6);
      at += 7;
  }
  return {
    part: {
      notes,
      marks,
      points: dynamics.map(([quarter, value], i) => ({
        id: `hear dynamics ${i}`,
        controller: CONTROLLER.dynamics,
        tick: quarter * TICKS_PER_QUARTER,
        value,
      })),
    },
    endTick: Math.round(at * TICKS_PER_QUARTER),
  };
}
