import { expect, test } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { magnitudeSpectrum } from '#core/dsp/index.ts';
import { readSmf } from '#core/formats/index.ts';
import { meanLevelDb } from '#core/measure/index.ts';
import { PowerTape } from '#core/testing/ear/k-level.ts';
import { takeover } from '#core/testing/ear/pitches.ts';
import { midiToHertz } from '#core/units/index.ts';
import { bounceAndRead, draw, drawCurve, enter, loaded, markBetween, newCue, PRE_ROLL } from './helpers.ts';

test('from sign-in to eight performed bars on disk', async ({ page }, info) => {
  await enter(page);

  await test.step('the first screen plays at once', async () => {
    await page.getByRole('button', { name: 'Play', exact: true }).click();
    await expect(page.getByRole('banner')).toContainText(/−\d+\.\d LUFS/);
    await page.getByRole('button', { name: 'Stop' }).click();
  });

  await test.step('Shelf shows the library, and a technique sounds on press', async () => {
    await page.getByRole('link', { name: 'Shelf' }).click();
    await page.getByPlaceholder('Find a sound').fill('wrenlow large');
    await page.getByRole('button', { name: 'Violins I', exact: true }).click();
    await page.getByRole('button', { name: 'Hear pizzicato' }).click();
    await page.waitForFunction(() => (window.farloMeasuring?.meters.momentary ?? -99) > -60);
    await page.getByRole('link', { name: 'Cue' }).click();
  });

  await newCue(page, `Eight bars ${info.workerIndex}${Date.now() % 10_000}`);

  await test.step('a keyswitch on the stand-in keyboard chooses the articulation, dynamics are ridden', async () => {
    await page.getByRole('button', { name: 'Stand-in keyboard', exact: true }).click();
    const panel = page.getByRole('region', { name: 'Stand-in keyboard' });
    for (let i = 0; i < 2; i++) await panel.getByRole('button', { name: 'Octave down' }).click();
    await panel.locator('[data-key="26"]').click();
    await expect(page.getByRole('region', { name: 'Playing strip' })).toContainText('Violins I · staccato');
    await panel.locator('[data-key="24"]').click();
    for (let i = 0; i < 3; i++) await panel.getByRole('button', { name: 'Octave up' }).click();
    const key = await panel.locator('[data-key="69"]').boundingBox();
    await page.mouse.move((key?.x ?? 0) + 4, (key?.y ?? 0) + 40);
    await page.mouse.down();
    await page.waitForFunction(() => (window.farloMeasuring?.meters.momentary ?? -99) > -50);
    const level = () => page.evaluate(() => window.farloMeasuring?.meters.momentary ?? -99);
    const fader = panel.getByRole('slider', { name: 'Fader 1: dynamics' });
    await fader.focus();
    await page.keyboard.press('Home');
    await page.waitForTimeout(900);
    const soft = await level();
    await page.keyboard.press('End');
    await page.waitForTimeout(900);
    expect((await level()) - soft).toBeGreaterThan(6);
    await page.mouse.up();
    await page.getByRole('button', { name: 'Put the stand-in keyboard away' }).click();
  });

  await test.step('positions are balanced, and say what they cost', async () => {
    const far = page.getByRole('slider', { name: 'Far', exact: true });
    await expect(far).toHaveAccessibleDescription(/holds [\d.]+ MB/);
    const before = Number(await far.getAttribute('aria-valuenow'));
    await far.focus();
    await page.keyboard.press('ArrowLeft');
    await expect(far).toHaveAttribute('aria-valuenow', String(before - 1));
  });

  await test.step('the hall is turned off, since its tail of the old pitch would blur where a new one lands', async () => {
    await page.getByRole('slider', { name: 'Hall', exact: true }).focus();
    await page.keyboard.press('Home');
    await expect(page.getByRole('textbox', { name: 'Hall, typed' })).toHaveValue('−∞');
  });

  await test.step('eight bars are written', async () => {
    await draw(page, [
      [0, 2, 67],
      [2, 2, 71],
      [4, 3, 69],
      [8, 0.5, 69],
      [10, 0.5, 72],
      [12, 0.5, 67],
      [14, 0.5, 71],
      [17, 2.5, 69],
      [25, 2.5, 69],
    ]);
    await markBetween(page, 0, 8, 'connected');
    await markBetween(page, 8, 12, 'staccato');
    await markBetween(page, 12, 16, 'pizzicato');
    await drawCurve(page, 'Dynamics', [
      [0, 70],
      [7.5, 70],
      [16, 18],
      [20, 18],
      [24, 122],
      [28, 122],
    ]);
    await drawCurve(page, 'Vibrato', [
      [0, 60],
      [28, 60],
    ]);
    await expect(page.getByRole('application', { name: 'Notes of Violins I: 9' })).toBeVisible();
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('button', { name: 'Redo' }).click();
    await expect(page.getByRole('status').filter({ hasText: /^Saved \d/ })).toBeVisible();
  });

  await test.step('what is written is there after loading the page again', async () => {
    await page.reload();
    await loaded(page);
    await expect(page.getByRole('application', { name: 'Notes of Violins I: 9' })).toBeVisible();
    await expect(page.getByRole('button', { name: 'pizzicato', exact: true })).toBeVisible();
  });

  await test.step('the bounce is in time, follows the dynamics, and ends in silence', async () => {
    const wav = await bounceAndRead(page, info.outputPath('cue.wav'));
    expect([wav.rate, wav.format, wav.channels.length]).toEqual([48000, 'i24', 2]);
    const [left, right] = wav.channels;
    const at = (beat: number) => Math.round((PRE_ROLL + beat) * 48000);
    const tape = new PowerTape([left, right]);
    const onset = (beat: number) => {
      const when = PRE_ROLL + beat;
      const floor = Math.max(-100, tape.db(when - 0.45, when - 0.35));
      return (tape.speaks(when - 0.3, when + 0.4, floor) ?? 99) - when;
    };
    // Short notes within 3 ms; held ones, which rise over a tenth of a second when soft, within 5 ms and seldom a little more.
    for (const [beat, most] of [8, 10, 12, 14]
      .map((at) => [at, 0.003])
      .concat([0, 17, 25].map((at) => [at, 0.007])))
      expect(Math.abs(onset(beat)), `onset at beat ${beat}`).toBeLessThan(most);
    const mono = left.map((v, i) => v + right[i]);
    for (const [beat, from, to] of [
      [2, 67, 71],
      [4, 71, 69],
    ]) {
      const room = { before: 1, after: 1 };
      const heard = takeover(mono, midiToHertz(from), midiToHertz(to), PRE_ROLL + beat, room);
      // Ten players from several positions: their own landings lie that far apart.
      expect(Math.abs((heard.at ?? 99) - PRE_ROLL - beat), `landing at beat ${beat}`).toBeLessThan(0.02);
    }
    const level = (beat: number) => meanLevelDb([left, right], at(beat + 0.5), at(beat + 1.5));
    expect(level(25) - level(17)).toBeGreaterThan(8);
    const brightness = (beat: number) => {
      const spectrum = magnitudeSpectrum(left.slice(at(beat + 0.7), at(beat + 0.7) + 32_768));
      const power = (from: number, to: number) =>
        spectrum
          .slice(Math.round((from * 32_768) / 48_000), Math.round((to * 32_768) / 48_000))
          .reduce((sum, m) => sum + m * m, 0);
      return 10 * Math.log10(power(3000, 9000) / power(300, 1500));
    };
    expect(brightness(25) - brightness(17)).toBeGreaterThan(4);
    expect(meanLevelDb([left, right], left.length - 4800, left.length)).toBeLessThan(-95);
  });

  await test.step('the hall is turned on again', async () => {
    await page.getByRole('link', { name: 'Cue' }).click();
    await page.getByRole('slider', { name: 'Hall', exact: true }).focus();
    await page.keyboard.press('Backspace');
    await page.getByRole('link', { name: 'Deliver' }).click();
  });

  await test.step('a bounce can be cancelled, and leaves the list as it was', async () => {
    // The bounce of before stands there once the view is drawn.
    const files = page.getByRole('link', { name: 'Save' });
    await expect(files.first()).toBeVisible();
    const saved = await files.count();
    await page.getByRole('button', { name: 'Bounce the cue' }).click();
    await page.getByRole('button', { name: 'Cancel' }).click();
    await expect(page.getByRole('button', { name: 'Bounce the cue' })).toBeVisible();
    await expect(files).toHaveCount(saved);
  });

  await test.step('MIDI goes out clean and performed', async () => {
    const read = async (button: string) => {
      await page.getByRole('button', { name: button }).click();
      const [download] = await Promise.all([
        page.waitForEvent('download'),
        page.getByRole('link', { name: 'Save' }).first().click(),
      ]);
      await download.saveAs(info.outputPath('cue.mid'));
      return readSmf(new Uint8Array(readFileSync(info.outputPath('cue.mid'))), 'cue.mid');
    };
    const clean = (await read('MIDI, clean')).tracks[0];
    expect(clean.notes.map((note) => note.startTick / 960)).toEqual([0, 2, 4, 8, 10, 12, 14, 17, 25]);
    const performed = (await read('MIDI, performed')).tracks[0];
    expect(performed.notes.filter((note) => note.key < 30).map((note) => note.key)).toEqual([25, 26, 27, 24]);
    const played = performed.notes.filter((note) => note.key > 30);
    expect(played).toHaveLength(9);
    played.forEach((note, i) => {
      const lead = clean.notes[i].startTick + 3840 - note.startTick;
      expect(lead).toBeGreaterThan(0);
      expect(lead).toBeLessThan(480);
    });
  });
});
