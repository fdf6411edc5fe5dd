import { expect, test } from '@playwright/test';
import { PowerTape } from '#core/testing/ear/k-level.ts';
import { takeover } from '#core/testing/ear/pitches.ts';
import { bounceAndRead, draw, enter, markBetween, newCue, PRE_ROLL } from './helpers.ts';

const KEYS = [67, 69, 72, 71, 67, 74, 72, 67];
const hertz = (key: number) => 440 * 2 ** ((key - 69) / 12);

// A slow line of whole beats and a quick one of half beats; what comes out is heard by ears of the tests' own.
for (const { name, bpm, beats } of [
  { name: 'A slow line', bpm: '60', beats: 1 },
  { name: 'A quick line', bpm: '180', beats: 0.5 },
])
  test(`${name} goes from note to note without a hole, and lands on its beats`, async ({ page }, info) => {
    await enter(page);
    await newCue(page, name);
    await page.getByRole('textbox', { name: 'Tempo' }).fill(bpm);
    await page.keyboard.press('Enter');
    await draw(
      page,
      KEYS.map((key, i) => [i * beats, beats, key] as const),
    );
    await markBetween(page, 0, KEYS.length * beats, 'connected');
    // The shared hall would keep the old pitch alive.
    await page.getByRole('slider', { name: 'Hall', exact: true }).focus();
    await page.keyboard.press('Home');
    const wav = await bounceAndRead(page, info.outputPath('line.wav'));
    const [left, right] = wav.channels;
    const tape = new PowerTape([left, right]);
    const noteSeconds = (beats * 60) / Number(bpm);
    const at = (note: number) => PRE_ROLL + note * noteSeconds;
    const line = tape.db(at(0) + 0.2, at(KEYS.length));
    const { low, high } = tape.extremes(at(0) + 0.2, at(KEYS.length) - 0.05);
    // Ten players and five positions fluctuate by some dB of themselves; a hole of a recorded move was 8 to 23 dB deep.
    expect(low).toBeGreaterThan(line - 7);
    expect(high).toBeLessThan(line + 6);
    const mono = left.map((value, i) => value + right[i]);
    const lates = KEYS.slice(1).flatMap((key, i) => {
      const room = { before: noteSeconds * 0.6, after: noteSeconds * 0.8 };
      const heard = takeover(mono, hertz(KEYS[i]), hertz(key), at(i + 1), room);
      return heard.at === undefined ? [] : Math.abs(heard.at - at(i + 1));
    });
    expect(lates.length).toBeGreaterThan(4);
    expect(lates.sort((a, b) => a - b)[lates.length >> 1]).toBeLessThan(0.015);
    await page.getByRole('link', { name: 'Cue' }).click();
    await page.getByRole('slider', { name: 'Hall', exact: true }).focus();
    await page.keyboard.press('Backspace');
    await expect(page.getByRole('status').filter({ hasText: /^Saved \d/ })).toBeVisible();
  });
