// Takes the pictures of docs/screenshots from a running Farlo with demo data.
import { chromium } from '@playwright/test';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { CHROMIUM } from './lib/chromium.mjs';

/** A mono WAV file, 16 bits, of a function of seconds. */
function wav(seconds, wave) {
  const count = Math.round(48_000 * seconds);
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
  for (let i = 0; i < count; i++) bytes.writeInt16LE(Math.round(12_000 * wave(i / 48_000)), 44 + 2 * i);
  return bytes;
}
const hertzOf = (key) => 440 * 2 ** ((key - 69) / 12);

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
  if (colorScheme === 'dark') {
    await page.getByRole('button', { name: 'Recording', exact: true }).click();
    await page.getByRole('button', { name: 'Score', exact: true }).click();
  }
  await page.waitForTimeout(6500);
  await shot('cue');
  await page.getByRole('button', { name: 'Stop' }).click();
  if (colorScheme === 'light') {
    await page.getByRole('link', { name: 'Template', exact: true }).click();
    await page.getByRole('button', { name: 'More for Lamp bells' }).click();
    await page.getByRole('menuitem', { name: /^Duplicate/ }).click();
    await page.getByLabel('Name of track 3').fill('Far bells');
    await page.waitForTimeout(1500);
    await shot('template');
    await page.keyboard.press('Escape');
    await page.locator('#main').focus();
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await page.getByRole('button', { name: /^Ilse Marrow/ }).click();
    await page.getByRole('menuitem', { name: 'People and account' }).click();
    await page.getByText('wren@saltglass.example').waitFor();
    await shot('people');
  }
  await page.getByRole('link', { name: 'Keymaps', exact: true }).click();
  await page.getByRole('button', { name: 'staccato', exact: true }).click();
  await page.waitForTimeout(900);
  await shot('keymaps');
  if (colorScheme === 'light') {
    await page.getByRole('link', { name: 'Coverage' }).click();
    await page.getByLabel('Instruments').selectOption('all');
    await page
      .getByRole('button', { name: /^near bridge, Violas:/ })
      .first()
      .click();
    await page.waitForTimeout(500);
    await shot('coverage');
  }
  await page.getByRole('link', { name: 'Shelf' }).click();
  await page.getByRole('button', { name: 'strings', exact: false }).first().click();
  await page.getByRole('button', { name: 'Violas', exact: true }).first().click();
  await page.getByRole('button', { name: 'Hear tremolo' }).click();
  await page.waitForTimeout(1800);
  await shot('shelf');
  if (colorScheme === 'light') {
    await page.getByRole('button', { name: 'Bring in sounds' }).click();
    const tone = (key, name) => ({
      name,
      mimeType: 'audio/wav',
      buffer: wav(1, (t) => Math.sin(2 * Math.PI * hertzOf(key) * t)),
    });
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
  await page.getByRole('link', { name: 'Listen' }).click();
  await page.getByLabel('Line-up', { exact: true }).selectOption('Fast violins');
  const measure = page.getByRole('button', { name: /^Measure (it|them)$/ });
  await page.getByText('Level over key', { exact: true }).or(measure).waitFor();
  if (await measure.isVisible()) await measure.click();
  await page
    .getByRole('heading', { name: 'C · Violins I', level: 3 })
    .waitFor({ state: 'attached', timeout: 180_000 });
  await page.waitForFunction(() => document.querySelectorAll('[role=gridcell] svg').length >= 24, undefined, {
    timeout: 120_000,
  });
  const cell = page.getByRole('button', { name: /^Even fast notes by A,/ });
  await cell.click();
  await page.waitForTimeout(800);
  await page.keyboard.press('ArrowRight');
  await page.waitForTimeout(900);
  await shot('listen');
  await page.keyboard.press('Escape');
  if (colorScheme === 'light') {
    await page.getByRole('button', { name: 'Blind', exact: true }).click();
    for (const choice of ['Sound 2', 'Sound 3'])
      await page.getByRole('button', { name: choice, exact: true }).click();
    await page.getByRole('button', { name: 'Reveal' }).click();
    await page.waitForTimeout(500);
    await shot('blind');
    await page.getByRole('button', { name: 'Forget these rounds' }).click();
    await page.getByRole('button', { name: 'End', exact: true }).click();
    await page.getByRole('button', { name: /^B ?Violins/ }).click();
    for (const [criterion, score] of [
      ['Sound', '8'],
      ['Range of use', '6'],
      ['Playability', '5'],
      ['Value', '7'],
    ]) {
      await page.getByLabel(`${criterion}, typed`).fill(score);
      await page.keyboard.press('Enter');
    }
    await page.getByRole('button', { name: 'reserve', exact: true }).click();
    await page.getByLabel('Fills the gap').selectOption('A second, smaller violin section');
    await page.getByRole('button', { name: 'Verdicts and gaps' }).click();
    await page.waitForTimeout(300);
    await shot('verdicts');
    await page.getByRole('button', { name: /^Back to/ }).click();
  }
  await page.getByRole('link', { name: 'Deliver' }).click();
  await page.getByRole('button', { name: 'MIDI, performed' }).click();
  await page.getByRole('button', { name: 'MusicXML' }).click();
  await page.getByLabel('Write').selectOption({ label: 'The mix, each track, and the hall' });
  await page.getByRole('button', { name: 'Bounce the cue' }).click();
  await page.getByRole('link', { name: 'Save' }).nth(2).waitFor({ timeout: 120_000 });
  if (colorScheme === 'light') await shot('deliver');
  await page.getByLabel('Cue', { exact: true }).selectOption({ label: '3M1 Night Crossing' });
  await page.getByRole('link', { name: 'Balance', exact: true }).click();
  await page.getByRole('button', { name: /^Measure bars 19/ }).click({ timeout: 120_000 });
  await page.getByRole('button', { name: 'Cancel' }).waitFor();
  await page.getByRole('button', { name: 'Cancel' }).waitFor({ state: 'detached', timeout: 200_000 });
  await page.getByRole('button', { name: 'Violas', exact: true }).click();
  await page.waitForTimeout(500);
  await shot('balance');
  if (colorScheme === 'light') {
    await page.getByRole('button', { name: 'Seating', exact: true }).click();
    await page.getByRole('button', { name: 'Bring all to their seats' }).click();
    await page.getByRole('button', { name: 'Brings …' }).waitFor();
    await page.getByRole('button', { name: 'Bring all to their seats' }).waitFor({ timeout: 60_000 });
    await page.waitForTimeout(1500);
    await shot('seating');
    await page.locator('#main').focus();
    await page.keyboard.press('Control+z');
    await page.waitForTimeout(1500);
  }
}
await browser.close();
