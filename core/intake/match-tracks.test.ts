import { describe, expect, it } from 'vitest';
import { findPlaces, KIT_PROGRAM, type InstrumentThere, type PlaceFound, type Seeking } from './index.ts';

const instrument = (id: string, name: string, family: InstrumentThere['family']): InstrumentThere => ({
  id,
  name,
  family,
});
const INSTRUMENTS = [
  instrument('v1', 'Violins I', 'strings'),
  instrument('v2', 'Violins II', 'strings'),
  instrument('va', 'Violas', 'strings'),
  instrument('vc', 'Cellos', 'strings'),
  instrument('sv', 'Solo violin', 'strings'),
  instrument('fl', 'Flute', 'winds'),
  instrument('hn', 'Four horns', 'brass'),
  instrument('ti', 'Timpani', 'percussion'),
  instrument('pi', 'Ferry piano', 'keys'),
];
const track = (id: string, name: string, instrument = '') => ({ id, name, instrument });
const TRACKS = [
  track('t1', 'Violins I', 'Violins I'),
  track('t2', 'Lamp bells', 'Hand bells'),
  track('t3', 'Low end', 'Cellos'),
];
const said = (place: PlaceFound) =>
  'trackId' in place ? `→ ${place.trackId}` : `+ ${place.instrumentId ?? 'none'} (${place.why ?? '-'})`;
const places = (names: readonly (string | Seeking)[], tracks = TRACKS) =>
  findPlaces(
    names.map((one) => (typeof one === 'string' ? { name: one } : one)),
    tracks,
    INSTRUMENTS,
  ).map(said);

describe('the place of a track of a file', () => {
  it('is the one of its name, however it is written, and of its articulations written apart', () => {
    expect(places(['violins i', 'Violins I · staccato', 'Lamp bells'])).toEqual(['→ t1', '→ t1', '→ t2']);
  });
  it.each([
    ['Violin 1', '→ t1'],
    ['Vln. I', '→ t1'],
    ['1st Violins', '→ t1'],
    ['VIOLINS', '→ t1'],
    ['Celli', '→ t3'],
    ['Vc', '→ t3'],
    ['Bells', '→ t2'],
  ])('“%s” is found', (name, place) => {
    expect(places([name])).toEqual([place]);
  });
  it('is not another desk’s: the second violins get a track of their own', () => {
    expect(places(['Violin 1', 'Violin 2'])).toEqual(['→ t1', '+ v2 (name)']);
    expect(places(['Violin 2', 'Violin 1'])).toEqual(['+ v2 (name)', '→ t1']);
  });
  it('goes to the most alike, and to each once', () => {
    expect(places(['Solo violin', 'Violins I'])).toEqual(['+ sv (name)', '→ t1']);
    const two = [track('a', 'Horn 1'), track('b', 'Horn 2')];
    expect(places(['Horn 2', 'Horn 1', 'Horn 3'], two)).toEqual(['→ b', '→ a', '+ hn (name)']);
  });
  it('is a new one with an instrument of its name, else of its family, else none', () => {
    expect(places(['Flute 2', 'Piccolo', 'Trumpets', { name: 'Track 7', program: 0 }, 'Track 8'])).toEqual([
      '+ fl (name)',
      '+ fl (family)',
      '+ hn (family)',
      '+ pi (family)',
      '+ none (-)',
    ]);
    expect(places([{ name: 'Beat', program: KIT_PROGRAM }])).toEqual(['+ ti (family)']);
  });
  it('without anything there is a new one', () => {
    expect(findPlaces([{ name: 'Flute' }, { name: '' }], [], []).map(said)).toEqual([
      '+ none (-)',
      '+ none (-)',
    ]);
  });
});
