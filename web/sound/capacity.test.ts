import { afterAll, beforeEach, describe, expect, it, vi } from 'vitest';

const limits = vi.hoisted(() => [] as number[]);
vi.mock('./host.ts', () => ({ soundHost: { setVoiceLimit: (limit: number) => limits.push(limit) } }));

const kept = new Map<string, string>();
vi.stubGlobal('localStorage', {
  getItem: (key: string) => kept.get(key) ?? null,
  setItem: (key: string, value: string) => kept.set(key, value),
  removeItem: (key: string) => kept.delete(key),
});
vi.stubGlobal('navigator', { hardwareConcurrency: 8 });
let trials: FakeWorker[] = [];
class FakeWorker {
  onmessage: ((event: { data: unknown }) => void) | undefined;
  onerror: (() => void) | undefined;
  asked = 0;
  ended = false;
  constructor() {
    trials.push(this);
  }
  postMessage(): void {
    this.asked++;
  }
  terminate(): void {
    this.ended = true;
  }
}
vi.stubGlobal('Worker', FakeWorker);
afterAll(() => vi.unstubAllGlobals());

beforeEach(() => {
  kept.clear();
  limits.length = 0;
  trials = [];
  vi.resetModules();
});

describe('how many notes may sound', () => {
  it('is a careful number before the machine was tried', async () => {
    const { tellLimit, useCapacity, voiceLimit } = await import('./capacity.ts');
    expect(voiceLimit(useCapacity.getState())).toBe(96);
    tellLimit();
    expect(limits).toEqual([96]);
  });

  it('is what the machine manages in half of its time, within bounds, and lasts', async () => {
    const { tryMachine, useCapacity } = await import('./capacity.ts');
    const trying = tryMachine();
    expect(useCapacity.getState().trying).toBe(true);
    // One trial at a time.
    await tryMachine();
    expect(trials).toHaveLength(1);
    expect(trials[0].asked).toBe(1);
    trials[0].onmessage?.({ data: { voiceMs: 0.01, blockMs: 2.667 } });
    await trying;
    expect(trials[0].ended).toBe(true);
    expect(useCapacity.getState()).toEqual({ managed: 133, chosen: undefined, trying: false });
    expect(limits).toEqual([133]);
    for (const [voiceMs, managed] of [
      [1, 16],
      [0.0001, 512],
    ]) {
      const again = tryMachine();
      trials.at(-1)?.onmessage?.({ data: { voiceMs, blockMs: 2.667 } });
      await again;
      expect(useCapacity.getState().managed).toBe(managed);
    }
    vi.resetModules();
    const { useCapacity: later, voiceLimit } = await import('./capacity.ts');
    expect(voiceLimit(later.getState())).toBe(512);
  });

  it('stays as it is where the machine cannot be tried', async () => {
    const { tryMachine, useCapacity } = await import('./capacity.ts');
    const trying = tryMachine();
    trials[0].onerror?.();
    await trying;
    expect(useCapacity.getState()).toEqual({ managed: undefined, chosen: undefined, trying: false });
    expect(limits).toEqual([]);
  });

  it('is what somebody chose, until they take it back', async () => {
    const { chooseLimit, useCapacity, voiceLimit } = await import('./capacity.ts');
    chooseLimit(40.4);
    expect(limits.at(-1)).toBe(40);
    chooseLimit(3);
    expect(limits.at(-1)).toBe(16);
    chooseLimit(9000);
    expect(voiceLimit(useCapacity.getState())).toBe(512);
    vi.resetModules();
    const again = await import('./capacity.ts');
    expect(again.useCapacity.getState().chosen).toBe(512);
    again.chooseLimit(undefined);
    expect(again.voiceLimit(again.useCapacity.getState())).toBe(96);
  });

  it('is not taken from what is damaged', async () => {
    for (const text of ['{', '{"managed":"many","chosen":-4}', 'null']) {
      kept.set('farlo-voices', text);
      vi.resetModules();
      const { useCapacity } = await import('./capacity.ts');
      expect(useCapacity.getState()).toEqual({ managed: undefined, chosen: undefined, trying: false });
    }
  });
});

describe('how many cores are used', () => {
  it('is all there are, or what was chosen, which lasts', async () => {
    const { chooseCores, coresWanted, machineCores } = await import('./cores.ts');
    expect([machineCores(), coresWanted()]).toEqual([8, 8]);
    chooseCores(3);
    expect(coresWanted()).toBe(3);
    vi.resetModules();
    const again = await import('./cores.ts');
    expect(again.coresWanted()).toBe(3);
    again.chooseCores(8);
    expect([...kept]).toEqual([]);
    expect(again.useCores.getState().chosen).toBeUndefined();
  });
  it('is not taken from what is damaged', async () => {
    for (const text of ['many', '0', '33', '-2']) {
      kept.set('farlo-cores', text);
      vi.resetModules();
      const { coresWanted } = await import('./cores.ts');
      expect(coresWanted()).toBe(8);
    }
    kept.set('farlo-cores', '32');
    vi.resetModules();
    expect((await import('./cores.ts')).coresWanted()).toBe(32);
  });
});
