import { describe, expect, it } from 'vitest';
import { nameOf } from './upload-name.ts';

describe('what was sent is called', () => {
  it.each<[string, string[]]>([
    ['Mooring', ['Mooring.zip']],
    ['Mooring', ['Mooring.SFZ']],
    ['Mooring', ['Mooring.wav']],
    ['Mooring', ['Mooring.flac']],
    ['Mooring.txt', ['Mooring.txt']],
    ['Mooring.zip.bak', ['Mooring.zip.bak']],
    // A folder, with either slash.
    ['Harbour', ['Harbour/a.wav', 'Harbour/deep/b.wav']],
    ['Harbour', ['Harbour\\a.wav', 'Harbour\\b.wav']],
    // What all names begin with, less the letter in which they happen to agree.
    ['Gangway Whistle', ['Gangway Whistle_Sus_60.wav', 'Gangway Whistle_Stacc_60.wav']],
    ['Gull', ['Gull - C4.wav', 'Gull - C5.wav']],
    ['Gull', ['Gull..1.wav', 'Gull..2.wav']],
    ['Gull12', ['Gull123.wav', 'Gull124.wav']],
    ['Recordings', ['a.wav', 'b.wav']],
    ['Recordings', ['_a.wav', '_b.wav']],
  ])('%s: %j', (name, paths) => {
    expect(nameOf(paths)).toBe(name);
  });
});
