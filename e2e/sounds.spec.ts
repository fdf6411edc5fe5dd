import { expect, test } from '@playwright/test';
import { writeSmf, writeWav } from '#core/formats/index.ts';
import { enter, zipOf } from './helpers.ts';

const tone = (hz: number) =>
  writeWav({
    rate: 44100,
    format: 'i24',
    channels: [Float32Array.from({ length: 66_150 }, (_, i) => 0.5 * Math.sin((6.2831853 * hz * i) / 44100))],
  });

test('an SFZ zip becomes a library, is used on a track and sounds; what it cannot use is told', async ({
  page,
}) => {
  await enter(page);
  await page.getByRole('link', { name: 'Shelf' }).click();
  await page.getByRole('button', { name: 'Bring in sounds' }).click();
  const buffer = await zipOf({
    'Mooring Whistle.sfz':
      '<global>eq1_gain=3 ampeg_release=0.3\n<region>sample=tones/low.wav lokey=48 hikey=66 pitch_keycenter=60\n<region>sample=tones/high.wav lokey=67 hikey=90 pitch_keycenter=72',
    'tones/low.wav': tone(261.63),
    'tones/high.wav': tone(523.25),
  });
  await page
    .getByLabel('Choose a zip')
    .setInputFiles({ name: 'mooring.zip', mimeType: 'application/zip', buffer });
  await page.getByRole('textbox', { name: 'Library' }).fill('Mooring Sounds');
  await page.getByLabel('Family').selectOption('winds');
  await page.getByRole('button', { name: 'Take in' }).click();
  await page.getByRole('button', { name: 'Mooring Whistle' }).click();
  await expect(page.getByText('eq1_gain')).toBeVisible();

  await page.getByRole('link', { name: 'Cue' }).click();
  await page.getByRole('button', { name: 'Add a track to the template' }).click();
  await page
    .getByLabel('Instrument', { exact: true })
    .selectOption({ label: 'Mooring Whistle · Mooring Sounds' });
  await expect(page.getByRole('slider', { name: 'Mix', exact: true })).toBeVisible();
  const key = await page
    .getByRole('region', { name: 'Playing strip' })
    .locator('[data-key="69"]')
    .boundingBox();
  await page.mouse.move((key?.x ?? 0) + 4, (key?.y ?? 0) + 40);
  await page.mouse.down();
  await page.waitForFunction(() => (window.farloMeasuring?.meters.momentary ?? -99) > -50);
  await page.mouse.up();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
});

test('a broken zip is refused with file and line, and leaves nothing', async ({ page }) => {
  await enter(page);
  await page.getByRole('link', { name: 'Shelf' }).click();
  await expect(page.getByRole('button', { name: 'Violins I', exact: true })).toBeVisible();
  const before = await page.locator('tbody').count();
  await page.getByRole('button', { name: 'Bring in sounds' }).click();
  await page.getByLabel('Choose a zip').setInputFiles({
    name: 'broken.zip',
    mimeType: 'application/zip',
    buffer: await zipOf({ 'b.sfz': '<region>\nsample=tones/gone.wav' }),
  });
  await page.getByRole('button', { name: 'Take in' }).click();
  await expect(
    page.getByText(/b\.sfz, line 2: The sample “tones\/gone\.wav” is not among the files/),
  ).toBeVisible();
  expect(await page.locator('tbody').count()).toBe(before);
});

test('a MIDI file becomes a cue: tempo, curves, keyswitches as marks', async ({ page }) => {
  await enter(page);
  const n = (startTick: number, key: number, length = 900) => ({
    startTick,
    endTick: startTick + length,
    key,
    velocity: 90,
  });
  const bytes = writeSmf({
    tempos: [
      { tick: 0, bpm: 72 },
      { tick: 3840, bpm: 96 },
    ],
    metres: [{ tick: 0, numerator: 3, denominator: 4 }],
    texts: [{ tick: 0, text: 'the gangway' }],
    tracks: [
      {
        name: 'Violins I',
        channel: 0,
        notes: [n(0, 27, 100), n(20, 67), n(960, 71), n(1900, 26, 50), n(1920, 74, 300)],
        controls: [
          { tick: 0, controller: 1, value: 30 },
          { tick: 1900, controller: 1, value: 110 },
        ],
        programs: [],
        texts: [],
      },
    ],
  });
  await page
    .getByLabel('Bring in MIDI')
    .setInputFiles({ name: 'The Gangway.mid', mimeType: 'audio/midi', buffer: Buffer.from(bytes) });
  await expect(page.getByRole('dialog')).toContainText('2 tempos, 1 metre, 1 texts');
  await page.getByRole('button', { name: 'Take in' }).click();
  await expect(page.getByRole('heading', { name: 'The Gangway', level: 1 })).toBeVisible();
  await expect(page.getByRole('application', { name: 'Notes of Violins I: 3' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'pizzicato', exact: true })).toBeVisible();
  await expect(page.getByRole('textbox', { name: 'Tempo' })).toHaveValue('72');
  await expect(page.getByLabel('Metre')).toHaveValue('3/4');

  await page.getByLabel('Bring in MIDI').setInputFiles({
    name: 'half.mid',
    mimeType: 'audio/midi',
    buffer: Buffer.from(bytes.subarray(0, bytes.length - 12)),
  });
  await expect(
    page.getByRole('alert').filter({ hasText: /half\.mid, byte \d+: .*Nothing was taken in/ }),
  ).toBeVisible();
});
