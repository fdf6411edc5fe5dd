import { describe, expect, it } from 'vitest';
import { initials } from './initials.ts';

describe('initials', () => {
  it('are the first letters of two names', () => {
    expect(['Tam Oriel', 'wren', 'A B C'].map(initials)).toEqual(['TO', 'W', 'AB']);
  });
});
