// Takes the pictures of docs/screenshots from a running Farlo with demo data.
import { chromium } from '@playwright/test';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { CHROMIUM } from './lib/chromium.mjs';

/** A second of a tone as a 16-bit WAV file, for the picture of an import. */
function wav(key) {
  const count = 48_000;
  const bytes = Buffer.alloc(44 + count * 2);
  bytes.write('RIFF', 0);
  bytes.writeUInt32LE(36 + count * 2, 4);
  bytes.write('WAVEfmt ', 8);
  bytes.writeUInt32LE(16, 16);
  bytes.writeUInt16LE(1, 20);
  bytes.writeUInt16LE(1, 22);
  bytes.writeUInt32LE(48_000, 24);
  bytes.writeUInt32LE(96_000, 28);
  bytes.writeUInt16LE(2, 32);
  bytes.writeUInt16LE(16, 34);
  bytes.write('data', 36);
  bytes.writeUInt32LE(count * 2, 40);
  const hertz = 440 * 2 ** ((key - 69) / 12);
  for (let i = 0; i < count; i++)
    bytes.writeInt16LE(Math.round(12_000 * Math.sin((2 * Math.PI * hertz * i) / 48_000)), 44 + 2 * i);
  return bytes;
}

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const base = process.env.FARLO_URL ?? 'http://127.0.0.1:4870';

const browser = await chromium.launch(CHROMIUM);
for (const colorScheme of ['light', 'dark']) {
  const page = await (
    await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme })
  ).newPage();
  const shot = (name) =>
    page.screenshot({ path: join(root, 'docs/screenshots', `${name}-${colorScheme}.png`) });
  await page.goto(base);
  await page.getByRole('button', { name: 'Ilse Marrow' }).waitFor();
  if (colorScheme === 'light') await shot('sign-in');
  await page.getByRole('button', { name: 'Ilse Marrow' }).click();
  await page.waitForFunction(() => {
    const loads = Object.values(window.farloMeasuring?.useInstruments.getState().loads ?? {});
    return loads.length > 1 && loads.every((load) => load.complete);
  });
  await page.waitForTimeout(500);
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await page.waitForTimeout(6500);
  await shot('cue');
  await page.getByRole('button', { name: 'Stop' }).click();
  await page.getByRole('link', { name: 'Shelf' }).click();
  await page.getByRole('button', { name: 'strings', exact: false }).first().click();
  await page.getByRole('button', { name: 'Violas', exact: true }).first().click();
  await page.getByRole('button', { name: 'Hear tremolo' }).click();
  await page.waitForTimeout(1800);
  await shot('shelf');
  if (colorScheme === 'light') {
    await page.getByRole('button', { name: 'Compare two' }).click();
    await page.getByLabel('Left library').selectOption({ label: 'Wrenlow Strings, large' });
    await page.getByLabel('Right library').selectOption({ label: 'Tarrowby Chamber' });
    await page.waitForTimeout(300);
    await shot('compare');
    await page.getByRole('button', { name: 'Back to all' }).click();
    await page.getByRole('button', { name: 'Bring in sounds' }).click();
    const tone = (key, name) => ({ name, mimeType: 'audio/wav', buffer: wav(key) });
    await page
      .getByLabel('Choose files')
      .setInputFiles(
        ['Sus', 'Stacc'].flatMap((art) =>
          [60, 67, 72].flatMap((key) =>
            ['p', 'f'].map((dynamic) => tone(key, `Gangway Whistle_${art}_${key}_${dynamic}_Close.wav`)),
          ),
        ),
      );
    await page.getByText('12 of 12 files can be used').waitFor();
    await shot('import');
    await page.keyboard.press('Escape');
  }
  await page.getByRole('link', { name: 'Deliver' }).click();
  await page.getByRole('button', { name: 'Bounce the cue' }).click();
  await page.getByRole('link', { name: 'Save' }).first().waitFor({ timeout: 120_000 });
  await page.getByRole('button', { name: 'MIDI, performed' }).click();
  await shot('deliver');
}
await browser.close();
