// Takes the pictures of docs/screenshots from a running Farlo with demo data.
import { chromium } from '@playwright/test';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { CHROMIUM } from './lib/chromium.mjs';

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
  await page.getByRole('button', { name: 'Violins I', exact: true }).click();
  await page.waitForTimeout(300);
  await shot('shelf');
  await page.getByRole('link', { name: 'Deliver' }).click();
  await page.getByRole('button', { name: 'Bounce the cue' }).click();
  await page.getByRole('link', { name: 'Save' }).first().waitFor({ timeout: 120_000 });
  await page.getByRole('button', { name: 'MIDI, performed' }).click();
  await shot('deliver');
}
await browser.close();
