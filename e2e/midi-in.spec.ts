import { expect, test } from '@playwright/test';
import { writeSmf } from '#core/formats/index.ts';
import { enter } from './helpers.ts';

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
