import { describe, expect, it } from 'vitest';
import { InTurn } from './in-turn.ts';

const later = () => {
  let resolve!: (value: string) => void;
  let reject!: (error: Error) => void;
  const promise = new Promise<string>((yes, no) => ([resolve, reject] = [yes, no]));
  return { promise, resolve, reject };
};
const turnOfTheLoop = () => new Promise((resolve) => setTimeout(resolve));

describe('in turn', () => {
  it('starts the second of a key only after the first, and another key at once', async () => {
    const turns = new InTurn();
    const started: string[] = [];
    const first = later();
    const begin = (name: string, answer: Promise<string>) => () => {
      started.push(name);
      return answer;
    };
    const a = turns.run('a', begin('first', first.promise));
    const b = turns.run('a', begin('second', Promise.resolve('2')));
    const other = turns.run('b', begin('other', Promise.resolve('3')));
    expect(await other).toBe('3');
    expect(started).toEqual(['first', 'other']);
    first.resolve('1');
    expect(await Promise.all([a, b])).toEqual(['1', '2']);
    expect(started).toEqual(['first', 'other', 'second']);
    expect(turns.busy).toBe(0);
  });
  it('goes on after a failure, which only its own caller hears of, and keeps nothing', async () => {
    const turns = new InTurn();
    const first = later();
    const failing = turns.run('a', () => first.promise);
    const next = turns.run('a', () => Promise.resolve('on'));
    first.reject(new Error('broken'));
    await expect(failing).rejects.toThrow('broken');
    expect(await next).toBe('on');
    await turnOfTheLoop();
    expect(turns.busy).toBe(0);
  });
});
