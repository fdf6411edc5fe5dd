import { BlobWriter, TextReader, Uint8ArrayReader, ZipWriter } from '@zip.js/zip.js';
import { expect, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { readWav } from '#core/formats/index.ts';

/** Deliver puts this much silence before bar 1, in seconds. */
export const PRE_ROLL = 1;

/** Signs in as a demo person and waits until everything is loaded. */
export async function enter(page: Page, person = 'Ilse Marrow'): Promise<void> {
  await page.goto('/');
  await page.getByRole('button', { name: person }).click();
  await expect(page.getByRole('heading', { name: 'Positions' })).toBeVisible();
  await loaded(page);
}

/** Waits until no recording is on its way and parts are planned. */
export async function loaded(page: Page): Promise<void> {
  await page.waitForFunction(
    () => {
      const farlo = window.farloMeasuring;
      const loads = Object.values(farlo?.useInstruments.getState().loads ?? {});
      const waiting = farlo?.whatIsMissing().waiting.length ?? 1;
      return loads.length > 0 && loads.every((load) => load.complete) && waiting === 0;
    },
    undefined,
    { timeout: 60_000 },
  );
  await page.waitForTimeout(300);
}

/** Makes an empty cue at 60 quarter notes a minute, so that beats are seconds. */
export async function newCue(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: 'New cue' }).click();
  await page.getByRole('textbox', { name: 'Name' }).fill(name);
  await page.getByRole('button', { name: 'Make the cue' }).click();
  await expect(page.getByRole('heading', { name, level: 1 })).toBeVisible();
  await page.getByRole('textbox', { name: 'Tempo' }).fill('60');
  await page.keyboard.press('Enter');
}

const TICK_PIXELS = 0.024;
const LEFT_TICKS = 240;
const TOP_KEY = 84;
const ROW = 9;

/** The note canvas, and where a tick and a key lie on it as the editor opens. */
export async function grid(page: Page) {
  const canvas = page.getByRole('application', { name: /^Notes of/ });
  const box = await canvas.boundingBox();
  if (!box) throw new Error('the note canvas is not shown');
  return {
    canvas,
    x: (tick: number) => box.x + (tick + LEFT_TICKS) * TICK_PIXELS,
    y: (key: number) => box.y + (TOP_KEY - key + 0.5) * ROW,
  };
}

/** Draws notes with the mouse: [beat from 0, beats, key]. */
export async function draw(page: Page, notes: readonly (readonly [number, number, number])[]): Promise<void> {
  await page.getByRole('button', { name: 'Draw', exact: true }).click();
  const { x, y } = await grid(page);
  for (const [beat, beats, key] of notes) {
    await page.mouse.move(x(beat * 960 + 60), y(key));
    await page.mouse.down();
    await page.mouse.move(x((beat + beats) * 960), y(key), { steps: 4 });
    await page.mouse.up();
  }
  await page.getByRole('button', { name: 'Choose', exact: true }).click();
}

/** Chooses what lies between two beats and gives it an articulation. */
export async function markBetween(page: Page, from: number, to: number, articulation: string): Promise<void> {
  const { x } = await grid(page);
  const canvas = await page.getByRole('application', { name: /^Notes of/ }).boundingBox();
  await page.mouse.move(x(from * 960 - 60), (canvas?.y ?? 0) + 3);
  await page.mouse.down();
  await page.mouse.move(x(to * 960 - 100), (canvas?.y ?? 0) + (canvas?.height ?? 0) - 4, { steps: 4 });
  await page.mouse.up();
  await page.getByLabel(/^Mark \d+ selected$/).selectOption({ label: articulation });
}

/** Draws a curve with the mouse: [beat, value 0…127]. */
export async function drawCurve(
  page: Page,
  name: string,
  points: readonly (readonly [number, number])[],
): Promise<void> {
  const box = await page.getByRole('application', { name: new RegExp(`^${name} curve`) }).boundingBox();
  if (!box) throw new Error('the lane is not shown');
  const place = ([beat, value]: readonly [number, number]) =>
    [
      box.x + (beat * 960 + LEFT_TICKS) * TICK_PIXELS,
      box.y + 4 + (1 - value / 127) * (box.height - 8),
    ] as const;
  await page.mouse.move(...place(points[0]));
  await page.mouse.down();
  for (const point of points.slice(1)) await page.mouse.move(...place(point), { steps: 12 });
  await page.mouse.up();
}

/** Presses a button that offers a file, saves it, and reads it. */
export async function bounceAndRead(page: Page, path: string, format?: string) {
  await page.getByRole('link', { name: 'Deliver' }).click();
  if (format) await page.getByLabel('Format').selectOption(format);
  await page.getByRole('button', { name: 'Bounce the cue' }).click();
  const save = page.getByRole('link', { name: 'Save' }).first();
  await expect(save).toBeVisible({ timeout: 120_000 });
  const [download] = await Promise.all([page.waitForEvent('download'), save.click()]);
  await download.saveAs(path);
  return readWav(new Uint8Array(readFileSync(path)), path);
}

/** A zip of files in memory. */
export async function zipOf(files: Record<string, string | Uint8Array>): Promise<Buffer> {
  const writer = new ZipWriter(new BlobWriter(), { useWebWorkers: false });
  for (const [name, data] of Object.entries(files))
    await writer.add(name, typeof data === 'string' ? new TextReader(data) : new Uint8ArrayReader(data));
  return Buffer.from(await (await writer.close()).arrayBuffer());
}
