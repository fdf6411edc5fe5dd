import { beforeEach, describe, expect, it, vi } from 'vitest';
import { usePerformance } from './performance-state.ts';

const told = vi.hoisted(() => ({ did: [] as string[] }));
vi.mock('./transport.ts', () => ({
  play: ({ tick }: { tick: number }) => {
    told.did.push(`play ${tick}`);
    return Promise.resolve();
  },
  stop: () => told.did.push('stop'),
}));
const { beginScrub, endScrub, scrubTo } = await import('./scrub.ts');

beforeEach(() => {
  endScrub();
  told.did.length = 0;
  usePerformance.setState({ playing: false, preparing: false, recording: false });
});

describe('hearing from a place while it is held', () => {
  it('plays from there, on from other places, and ends', () => {
    beginScrub(960, 0);
    scrubTo(980, 500);
    scrubTo(1920, 50);
    scrubTo(1920, 200);
    scrubTo(960, 400);
    endScrub();
    scrubTo(0, 900);
    expect(told.did).toEqual(['play 960', 'play 1920', 'play 960', 'stop']);
  });
  it('begins once, however often its key says so', () => {
    beginScrub(960, 0);
    beginScrub(1920, 300);
    endScrub();
    endScrub();
    expect(told.did).toEqual(['play 960', 'stop']);
  });
  it.each(['playing', 'preparing', 'recording'] as const)('breaks nothing off that is %s', (state) => {
    usePerformance.setState({ [state]: true });
    beginScrub(960, 0);
    endScrub();
    expect(told.did).toEqual([]);
  });
});
