import { describe, expect, it } from 'vitest';
import { groupsOf, toggleFold, useTrackList } from './track-groups.ts';

const track = (id: string, name: string, family: string) => ({ id, name, family }) as never;
const TRACKS = [
  track('a', 'Flute', 'winds'),
  track('b', 'Oboe', 'winds'),
  track('c', 'Horns', 'brass'),
  track('d', 'Clarinet', 'winds'),
];
const said = (query = '', hasNotes?: (id: string) => boolean) =>
  groupsOf(TRACKS, query, hasNotes).map(
    ({ family, tracks }) => `${family}: ${tracks.map(({ name }) => name).join(' ')}`,
  );

describe('the list of tracks', () => {
  it('is told family by family, in the order of the template', () => {
    expect(said()).toEqual(['winds: Flute Oboe', 'brass: Horns', 'winds: Clarinet']);
  });
  it('holds what is looked for, by name or by family, in any case', () => {
    expect(said(' ObO ')).toEqual(['winds: Oboe']);
    expect(said('wind')).toEqual(['winds: Flute Oboe Clarinet']);
    expect(said('tuba')).toEqual([]);
  });
  it('holds tracks with notes alone where that is wanted', () => {
    expect(said('', (id) => id !== 'b')).toEqual(['winds: Flute', 'brass: Horns', 'winds: Clarinet']);
    expect(said('wind', (id) => id === 'd')).toEqual(['winds: Clarinet']);
  });
  it('is folded and unfolded group by group', () => {
    const [first, second] = groupsOf(TRACKS, '', undefined);
    toggleFold(first.id);
    toggleFold(second.id);
    toggleFold(first.id);
    expect([...useTrackList.getState().folded]).toEqual([second.id]);
    toggleFold(second.id);
  });
});
