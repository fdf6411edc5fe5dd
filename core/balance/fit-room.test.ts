import { describe, expect, it } from 'vitest';
import { Random } from '../dsp/index.ts';
import { THIRD_OCTAVES } from '../measure/index.ts';
import { depthOfRest, fitToRoom, type RoomSection } from './index.ts';

const ORDER = ['close', 'tree', 'far'];
/** What walls do to the treble and the bass of a far position, dB: a slope in octaves about 1 kHz. */
const slope = (perOctave: number) => (hertz: number) => perOctave * Math.log2(hertz / 1000);
/** A section by seed: any instrument, in a room whose far positions differ from the close one by curves. */
function section(seed: number, rooms: Record<string, (hertz: number) => number>, far = -8): RoomSection {
  const random = new Random(`instrument ${seed}`);
  const tone = THIRD_OCTAVES.map(() => random.between(-14, 0));
  const position = (curve: (hertz: number) => number, level: number) => ({
    bands: THIRD_OCTAVES.map((hertz, b) => 10 ** ((tone[b] + curve(hertz) + level) / 10)),
  });
  return {
    positions: {
      close: position(() => 0, 0),
      ...Object.fromEntries(Object.entries(rooms).map(([id, curve]) => [id, position(curve, far)])),
    },
  };
}
const rest = [1, 2, 3].map((seed) => section(seed, { tree: slope(-0.3), far: slope(-1) }, -3 * seed));

describe('a section in the room of others', () => {
  it('is left as it is when it was recorded there, whatever it plays and however loud it is', () => {
    expect(fitToRoom(section(9, { tree: slope(-0.3), far: slope(-1) }, -20), rest, ORDER)).toEqual([]);
  });

  it('gets the colour of the room where it comes from another, the near position none', () => {
    const fits = fitToRoom(section(9, { tree: slope(-0.3), far: slope(0.5) }), rest, ORDER);
    expect(fits.map(({ positionId }) => positionId)).toEqual(['far']);
    const [far] = fits;
    expect(far.sections).toBe(3);
    // From a slope of +0.5 to −1 dB an octave, over about nine octaves: 1.5 · 9 / √12.
    expect(far.beforeDb).toBeGreaterThan(3);
    expect(far.afterDb).toBeLessThan(far.beforeDb / 3);
    const gain = (shape: string) => far.bands.find((band) => band.shape === shape)?.gainDb ?? 0;
    expect(gain('high shelf')).toBeLessThan(-1);
    expect(gain('low shelf')).toBeGreaterThan(1);
    for (const { gainDb } of far.bands) expect(Math.abs(gainDb)).toBeLessThanOrEqual(6);
  });

  it('is left alone where too little would be gained', () => {
    // A slope of a tenth of a decibel an octave: 0.1 · 9 / √12 in all.
    expect(fitToRoom(section(9, { far: slope(-0.9) }), rest, ORDER)).toEqual([]);
    const [more] = fitToRoom(section(9, { far: slope(-0.7) }), rest, ORDER);
    expect(more.beforeDb - more.afterDb).toBeGreaterThan(0.3);
  });

  it('is held against those that have the position alone, and bands that are heard', () => {
    const noTree = [section(1, { far: slope(-1) }), section(2, { tree: slope(-2), far: slope(-1) })];
    const [tree] = fitToRoom(section(9, { tree: slope(2) }), noTree, ORDER);
    expect(tree).toMatchObject({ positionId: 'tree', sections: 1 });
    // Nothing above 2 kHz was recorded: what is said of it is noise, and must not count.
    const dull = section(9, { tree: (hertz) => (hertz > 2000 ? -90 : 0) });
    const flat = [section(3, { tree: () => 0 })];
    expect(fitToRoom(dull, flat, ORDER)).toEqual([]);
  });

  it('is told by what is heard alone, however much of the others is missing', () => {
    // One of the others holds nothing above 2 kHz: there the rest of them tell.
    const dull = section(4, { far: (hertz) => (hertz > 2000 ? -90 : -Math.log2(hertz / 1000)) });
    const others = [section(1, { far: slope(-1) }), dull];
    const [fit] = fitToRoom(section(9, { far: slope(0.5) }), others, ORDER);
    const alone = fitToRoom(section(9, { far: slope(0.5) }), [others[0]], ORDER)[0];
    const treble = (one: typeof fit) => one.bands.find(({ shape }) => shape === 'high shelf')?.gainDb ?? 0;
    expect(Math.abs(treble(fit) - treble(alone))).toBeLessThan(2);
    // 26 bands a third of an octave apart, 1.5 dB an octave: 1.5 · log2(10^0.1) · √((26² − 1) / 12).
    expect(alone.beforeDb).toBeCloseTo(3.737, 2);
    // Where all that is known lies to one side, its mean is level and no tone.
    const low = section(5, { far: (hertz) => (hertz > 800 ? -90 : -9) });
    expect(fitToRoom(section(9, { far: () => 0 }), [low], ORDER)).toEqual([]);
  });

  it('is nothing where nothing can be compared', () => {
    expect(fitToRoom(section(9, { far: slope(1) }), [], ORDER)).toEqual([]);
    expect(fitToRoom({ positions: {} }, rest, ORDER)).toEqual([]);
    const onlyMix: RoomSection = { positions: { mix: rest[0].positions.close } };
    expect(fitToRoom(section(9, { far: slope(1) }), [onlyMix], ORDER)).toEqual([]);
    const silent: RoomSection = {
      positions: {
        close: rest[0].positions.close,
        far: { bands: THIRD_OCTAVES.map(() => 0) },
      },
    };
    expect(fitToRoom(section(9, { far: slope(1) }), [silent], ORDER)).toEqual([]);
  });
});

describe('the depth of the rest', () => {
  it('is that in the middle', () => {
    expect(depthOfRest([5, undefined, -1, 3])).toBe(3);
    expect(depthOfRest([5, -1, NaN, 3, 2])).toBe(2.5);
    expect(depthOfRest([undefined])).toBeUndefined();
  });
});
