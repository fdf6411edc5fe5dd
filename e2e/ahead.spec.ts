import { expect, test, type Page } from '@playwright/test';
import { draw, enter, loaded, newCue } from './helpers.ts';

const RATE = 48_000;
const BLOCK = 128;

const voices = () => window.farloMeasuring?.meters.voices ?? 0;

/** A cue with one long note on the first track, and no hall. */
async function longNote(page: Page): Promise<void> {
  await enter(page);
  await newCue(page, `Rendered ahead ${Date.now()}`);
  await draw(page, [[0, 24, 67]]);
  await loaded(page);
  await page.evaluate(() => window.farloMeasuring?.soundHost.setHallMix({ earlyDb: -60, tailDb: -60 }));
}

/** What is heard in the next seconds of playing: power of each block, and the largest step from one frame to the next in it. */
function hear(page: Page, seconds: number): Promise<{ power: number[]; jumps: number[] }> {
  return page.evaluate(async (frames) => {
    const sound = await window.farloMeasuring?.soundHost.capture(frames);
    if (!sound) throw new Error('nothing was captured');
    const { left } = sound;
    const power: number[] = [];
    const jumps: number[] = [];
    for (let at = 0; at + 128 <= left.length; at += 128) {
      let sum = 0;
      let jump = 0;
      for (let i = at; i < at + 128; i++) {
        sum += left[i] * left[i];
        if (i > 0) jump = Math.max(jump, Math.abs(left[i] - left[i - 1]));
      }
      power.push(sum / 128);
      jumps.push(jump);
    }
    return { power, jumps };
  }, seconds * RATE);
}

const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;
const most = (values: readonly number[]) => values.reduce((high, value) => Math.max(high, value), 0);

test('mute, solo and rulers are heard within 80 ms while it plays', async ({ page }) => {
  await longNote(page);
  const pending = hear(page, 10);
  await page.evaluate(() => window.farloMeasuring?.play());
  await expect.poll(() => page.evaluate(voices)).toBeGreaterThan(0);
  await page.waitForTimeout(1500);
  // Presses a button, or a key on a ruler, as a hand would, and says which block was heard then.
  const press = (label: string, key = '') =>
    page.evaluate(
      ([name, pressed]) => {
        const control = document.querySelector<HTMLElement>(`[aria-label="${name}"]`);
        if (!control) throw new Error(`no ${name}`);
        const block = window.farloMeasuring?.soundHost.ahead.words.read ?? 0;
        if (pressed) control.dispatchEvent(new KeyboardEvent('keydown', { key: pressed, bubbles: true }));
        else control.click();
        return block;
      },
      [label, key],
    );
  const labels = await page
    .getByRole('list', { name: 'Tracks' })
    .getByRole('button')
    .evaluateAll((all) => all.map((one) => one.getAttribute('aria-label') ?? ''));
  const mute = labels.find((label) => label.startsWith('Mute')) ?? '';
  const solo = labels.filter((label) => label.endsWith('alone'))[1];
  const pressed: { block: number; falls: boolean }[] = [];
  for (const [label, falls, key] of [
    [mute, true],
    [mute, false],
    ['Level', true, 'Home'],
    ['Undo', false],
    [solo, true],
    [solo, false],
    [mute, true],
    [mute, false],
    ['Level', true, 'Home'],
    ['Undo', false],
  ] as const) {
    pressed.push({ block: await press(label, key), falls });
    await page.waitForTimeout(450);
  }
  const { power, jumps } = await pending;
  await page.evaluate(() => window.farloMeasuring?.stop());
  const whole = mean(power.slice(pressed[0].block - 40, pressed[0].block));
  expect(whole).toBeGreaterThan(1e-6);
  const delays = pressed.map(({ block, falls }) => {
    let at = block;
    while (at < power.length && power[at] < whole / 4 === !falls) at++;
    return ((at - block) * BLOCK) / RATE;
  });
  // The quickest of each: what else this machine did meanwhile is not the engine's doing.
  const quickest = (falls: boolean) => Math.min(...delays.filter((_, i) => pressed[i].falls === falls));
  expect(quickest(true)).toBeLessThanOrEqual(0.08);
  expect(quickest(false)).toBeLessThanOrEqual(0.08);
  const ruler = delays.filter((_, i) => [2, 8].includes(i));
  expect(Math.min(...ruler)).toBeLessThanOrEqual(0.08);
  // Nothing clicked.
  expect(most(jumps)).toBeLessThan(2.5 * most(jumps.slice(0, pressed[0].block)));
});

test('a worker that dies while it plays is replaced, and the music goes on', async ({ page }) => {
  await longNote(page);
  const pending = hear(page, 6);
  await page.evaluate(() => window.farloMeasuring?.play());
  await expect.poll(() => page.evaluate(voices)).toBeGreaterThan(0);
  await page.waitForTimeout(1500);
  const killed = await page.evaluate(() => {
    const ahead = window.farloMeasuring?.soundHost.ahead;
    ahead?.kill(0);
    return ahead?.words.read ?? 0;
  });
  const { power, jumps } = await pending;
  expect(await page.evaluate(() => window.farloMeasuring?.soundHost.ahead.replaced)).toBe(1);
  const before = mean(power.slice(killed - 100, killed));
  const after = mean(power.slice(-100));
  expect(before).toBeGreaterThan(1e-6);
  expect(Math.min(...power.slice(killed))).toBeLessThan(before / 1000);
  expect(Math.abs(10 * Math.log10(after / before))).toBeLessThan(4);
  expect(most(jumps)).toBeLessThan(1.5 * most(jumps.slice(0, killed)));
  // The page says so.
  await page.getByRole('button', { name: /^Output/ }).click();
  await expect(page.getByText(/s of some tracks came too late and were faded out, last at/)).toBeVisible();
  await page.keyboard.press('Escape');
  // It can be stopped and played like any other.
  await page.evaluate(() => window.farloMeasuring?.stop());
  await expect.poll(() => page.evaluate(voices)).toBe(0);
});

test('sound comes back after the browser has paused it, and after its device has gone', async ({ page }) => {
  await longNote(page);
  await page.evaluate(() => window.farloMeasuring?.play());
  const read = () => page.evaluate(() => window.farloMeasuring?.soundHost.ahead.words.read ?? 0);
  const epoch = () => page.evaluate(() => window.farloMeasuring?.soundHost.ahead.words.epoch ?? 0);
  await expect.poll(read).toBeGreaterThan(200);
  interface Inside {
    soundHost: { thread: { context: AudioContext } };
  }
  await test.step('paused, it goes on where it was', async () => {
    await page.evaluate(() =>
      (window.farloMeasuring as unknown as Inside).soundHost.thread.context.suspend(),
    );
    await page.keyboard.press('Shift');
    const at = await read();
    await expect.poll(read).toBeGreaterThan(at + 100);
    expect(await epoch()).toBe(1);
  });
  await test.step('gone, it begins anew at the playhead', async () => {
    await page.evaluate(() => (window.farloMeasuring as unknown as Inside).soundHost.thread.context.close());
    await expect.poll(epoch).toBe(2);
    await expect.poll(read).toBeGreaterThan(100);
    await expect.poll(() => page.evaluate(voices)).toBeGreaterThan(0);
    await expect(page.getByTitle('Time from the start of the cue')).not.toHaveText(/0:00/);
  });
  await page.evaluate(() => window.farloMeasuring?.stop());
});

test('a minute of playing while the machine is busy has no click, and next to nothing is late', async ({
  page,
}) => {
  test.setTimeout(240_000);
  await enter(page);
  const { late, blocks, jump, whole } = await page.evaluate(async () => {
    const farlo = window.farloMeasuring;
    if (!farlo) throw new Error('no measuring handle');
    const largest = (sound: Float32Array, step: number) => {
      let high = 0;
      for (let i = step; i < sound.length; i += step)
        high = Math.max(high, Math.abs(sound[i] - sound[i - step]));
      return high;
    };
    const made = await farlo.startBounce(farlo.bounceOrder(0), { format: 'f32' }, () => undefined).result;
    if (!made) throw new Error('no bounce');
    const bounced = new Float32Array((await made.files[0].file.arrayBuffer()).slice(44));
    const busy = new Worker(
      URL.createObjectURL(new Blob(['for (let x = 1; ; ) x = Math.sin(x) + performance.now() * 0;'])),
    );
    let heard = 0;
    let high = 0;
    const before = farlo.meters.lateBlocks;
    // The cue again and again.
    while (heard < 60 * 48_000) {
      const frames = 10 * 48_000;
      const pending = farlo.soundHost.capture(frames);
      await farlo.play();
      high = Math.max(high, largest((await pending).left, 1));
      farlo.stop();
      heard += frames;
    }
    busy.terminate();
    return {
      late: farlo.meters.lateBlocks - before,
      blocks: heard / 128,
      jump: high,
      whole: largest(bounced, 2),
    };
  });
  expect(jump).toBeLessThan(1.3 * whole);
  expect(late / blocks).toBeLessThan(0.02);
});
