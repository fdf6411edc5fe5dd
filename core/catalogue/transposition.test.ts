import { describe, expect, it } from 'vitest';
import { transpositionOf } from './index.ts';

describe('how far instruments sound from where they are written', () => {
  it.each([
    ['Clarinets', -2],
    ['Bass Clarinet', -14],
    ['Horn 1', -7],
    ['English Horn', -7],
    ['Trumpets', -2],
    ['Piccolo', 12],
    ['Piccolo Trumpet', 0],
    ['Alto Flute', -5],
    ['Glockenspiel', 24],
    ['Celesta', 12],
    ['Contrabassoon', -12],
    ['Double Basses', -12],
    ['Tenor Sax', -14],
    ['Violins I', 0],
    ['Flute 2', 0],
    ['Low Brass', 0],
    ['Bass Trombone', 0],
    ['Tuba', 0],
    ['Harp', 0],
  ])('%s: %s', (name, semitones) => {
    expect(transpositionOf(name)).toBe(semitones);
  });
  it('basses are strings, or voices that sing as written', () => {
    expect(transpositionOf('Basses', 'strings')).toBe(-12);
    expect(transpositionOf('Basses', 'choir')).toBe(0);
    expect(transpositionOf('Brass', 'strings')).toBe(0);
  });
});
