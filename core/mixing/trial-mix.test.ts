import { describe, expect, it } from 'vitest';
import { PLAIN_POSITION, trialMix, type TrackMix } from './index.ts';

const own: TrackMix = {
  gainDb: -3,
  pan: 0.2,
  muted: false,
  hallSendDb: -14,
  positions: {
    close: { ...PLAIN_POSITION, levelDb: -5 },
    tree: { ...PLAIN_POSITION, levelDb: 0 },
    far: { ...PLAIN_POSITION, levelDb: -60 },
  },
};

describe('the mix of a sound that is tried', () => {
  it('keeps the track’s settings for positions both have, and adds what matches its level', () => {
    const mix = trialMix(own, { trimDb: 4.5 }, [{ id: 'close' }, { id: 'far' }, { id: 'spot' }]);
    expect(mix.gainDb).toBe(1.5);
    expect(mix.hallSendDb).toBe(-14);
    expect(Object.keys(mix.positions)).toEqual(['close', 'far']);
    expect(mix.positions.close.levelDb).toBe(-5);
  });
  it('lets all positions be heard where none is shared, so that it is never silent', () => {
    const mix = trialMix(own, { trimDb: 0 }, [{ id: 'spot' }, { id: 'wide' }]);
    expect(Object.values(mix.positions)).toEqual([PLAIN_POSITION, PLAIN_POSITION]);
    expect(Object.keys(trialMix(own, { trimDb: 0 }, [{ id: 'far' }]).positions)).toEqual(['far']);
    expect(trialMix(own, { trimDb: 0 }, [{ id: 'far' }]).positions.far.levelDb).toBe(PLAIN_POSITION.levelDb);
  });
});
