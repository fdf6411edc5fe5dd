import { expect, test } from '@playwright/test';
import type { Instrument } from '#core/catalogue/index.ts';
import { engineFor, type BounceOrder } from '#core/deliver/index.ts';
import type { SampleAudio } from '#core/engine/index.ts';
import { HARBOUR_HALL, hallResponse } from '#core/rooms/index.ts';
import { enter } from './helpers.ts';

const SECONDS = 8;
/** Times it may play until nothing of it was late. */
const ROUNDS = 6;
/** Node renders this much of it. */
const NODE_SECONDS = 6;

test('live playing, the bounce and Node give the same samples, bit for bit', async ({ page }) => {
  test.setTimeout(240_000);
  await enter(page);
  const live = await page.evaluate(
    async ([seconds, rounds]) => {
      const farlo = window.farloMeasuring;
      if (!farlo) throw new Error('no measuring handle');
      await farlo.soundHost.wake();
      // What a busy machine renders too late is faded and counted; then it plays again, since that is no difference of the engine.
      let late = 0;
      let heard: { left: Float32Array; right: Float32Array } | undefined;
      for (let round = 0; round < rounds && (!heard || late > 0); round++) {
        const before = farlo.meters.lateBlocks;
        const captured = farlo.soundHost.capture(seconds * 48000);
        await farlo.play();
        heard = await captured;
        farlo.stop();
        // The next report tells what was late, and what rings on ends: playing again would fade it out under its beginning.
        await new Promise((resolve) => setTimeout(resolve, 5000));
        late = farlo.meters.lateBlocks - before;
      }
      const { left, right } = heard ?? { left: new Float32Array(), right: new Float32Array() };
      const order = farlo.bounceOrder(0);
      const made = await farlo.startBounce(order, { format: 'f32' }, () => undefined).result;
      if (!made) throw new Error('no bounce');
      const frames = new Float32Array((await made.files[0].file.arrayBuffer()).slice(44));
      let differing = 0;
      let loudest = 0;
      for (let i = 0; i < left.length; i++) {
        if (frames[2 * i] !== left[i] || frames[2 * i + 1] !== right[i]) differing++;
        loudest = Math.max(loudest, Math.abs(left[i]));
      }
      const { instruments: _instruments, hall: _hall, ...rest } = order;
      return {
        late,
        differing,
        loudest,
        order: rest,
        left: Array.from(frames.subarray(0, seconds * 96_000).filter((_, i) => i % 2 === 0)),
      };
    },
    [SECONDS, ROUNDS] as const,
  );
  expect(live.late).toBe(0);
  expect(live.loudest).toBeGreaterThan(0.05);
  expect(live.differing).toBe(0);

  const instruments: BounceOrder['instruments'] = [];
  for (const { instrumentId } of live.order.tracks) {
    if (instrumentId === null) continue;
    const instrument = (await (
      await page.request.get(`/api/instruments/${instrumentId}`)
    ).json()) as Instrument;
    const audio = new Map<string, SampleAudio>();
    for (const pack of Object.values(instrument.packs)) {
      const bytes = await (await page.request.get(`/api/packs/${pack.id}`)).body();
      for (const sample of Object.values(instrument.samples).filter((s) => s.pack === pack.id)) {
        const width = sample.channels * (sample.format === 'i16' ? 2 : 4);
        const whole = Buffer.concat([
          bytes.subarray(sample.headOffset, sample.headOffset + sample.headFrames * width),
          bytes.subarray(sample.tailOffset, sample.tailOffset + (sample.frames - sample.headFrames) * width),
        ]);
        const buffer = new Uint8Array(whole).buffer;
        audio.set(sample.id, {
          data: sample.format === 'i16' ? new Int16Array(buffer) : new Float32Array(buffer),
          channels: sample.channels,
          frames: sample.frames,
          rate: sample.rate,
        });
      }
    }
    instruments.push({ instrument, audio });
  }
  const engine = engineFor({ ...live.order, instruments, hall: hallResponse(HARBOUR_HALL) });
  const [here, right] = [new Float32Array(NODE_SECONDS * 48_000), new Float32Array(128)];
  for (let at = 0; at < here.length; at += 128) engine.renderMix(here.subarray(at, at + 128), right);
  expect(here.reduce((count, value, i) => count + (value === live.left[i] ? 0 : 1), 0)).toBe(0);
});
