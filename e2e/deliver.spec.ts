import { expect, test } from '@playwright/test';
import { BlobReader, Uint8ArrayWriter, ZipReader } from '@zip.js/zip.js';
import { readFileSync } from 'node:fs';
import { enter, loaded } from './helpers.ts';

/** Files of a zip by name. */
async function unzipped(path: string): Promise<Map<string, Uint8Array>> {
  const reader = new ZipReader(new BlobReader(new Blob([readFileSync(path)])), { useWebWorkers: false });
  const files = new Map<string, Uint8Array>();
  for (const entry of await reader.getEntries())
    if (!entry.directory) files.set(entry.filename, await entry.getData(new Uint8ArrayWriter()));
  return files;
}

/** Samples of a 32-bit float WAV with a header of 44 bytes, by hand. */
const samplesOf = (bytes: Uint8Array) => new Float32Array(bytes.slice(44).buffer);

test('a bounce gives mix, tracks and hall in one zip that add up bit for bit, or one by one, on any number of cores', async ({
  page,
}, info) => {
  await enter(page);
  await loaded(page);
  await page.getByRole('link', { name: 'Deliver' }).click();
  await page.getByLabel('Format').selectOption('f32');

  const zips: Map<string, Uint8Array>[] = [];
  await page.getByLabel('Write').selectOption({ label: 'The mix, each track, and the hall' });
  for (const cores of ['1', '2']) {
    await page.getByLabel('Cores').selectOption(cores);
    const before = await page.getByRole('link', { name: 'Save' }).count();
    await page.getByRole('button', { name: 'Bounce the cue' }).click();
    await expect(page.getByRole('status').filter({ hasText: /bar \d+ of \d+|zip/ })).toBeVisible();
    await expect(page.getByRole('link', { name: 'Save' })).toHaveCount(before + 1, { timeout: 120_000 });
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'Save' }).first().click(),
    ]);
    const path = info.outputPath(`stems-${cores}.zip`);
    await download.saveAs(path);
    zips.push(await unzipped(path));
  }
  const names = [...zips[0].keys()];
  expect(names[0]).toMatch(/-Mix\.wav$/);
  expect(names[1]).toMatch(/-Hall\.wav$/);
  expect(names.slice(2).every((name) => /-\d\d-.+\.wav$/.test(name))).toBe(true);
  // The same on one core and on two.
  for (const name of names) expect(Buffer.compare(zips[0].get(name)!, zips[1].get(name)!)).toBe(0);
  // The tracks in their order, then the hall, each sum rounded to 32 bits: the mix.
  const [mix, hall, ...tracks] = names.map((name) => samplesOf(zips[0].get(name)!));
  const sum = new Float32Array(mix.length);
  for (const one of [...tracks, hall]) for (let i = 0; i < sum.length; i++) sum[i] += one[i];
  let differing = 0;
  for (let i = 0; i < sum.length; i++) if (sum[i] !== mix[i]) differing++;
  expect(differing).toBe(0);
  expect(mix.some((value) => Math.abs(value) > 0.01)).toBe(true);

  await test.step('families come one by one', async () => {
    await page.getByLabel('Write').selectOption({ label: 'The mix, each stem, and the hall' });
    await page.getByLabel('All of it in one zip').uncheck();
    const before = await page.getByRole('link', { name: 'Save' }).count();
    await page.getByRole('button', { name: 'Bounce the cue' }).click();
    // A try that broke off may have left its own stem of strings in the template.
    await expect(page.getByText(/-strings\.wav$/).first()).toBeVisible({ timeout: 120_000 });
    expect(await page.getByRole('link', { name: 'Save' }).count()).toBeGreaterThan(before + 2);
  });

  await test.step('a position goes to a stem of its own, and a file off the list is off the disk', async () => {
    // What goes while it is counted makes the count worthless, not the test.
    const onDisk = () =>
      page.evaluate(async () => {
        const count = async (folder: FileSystemDirectoryHandle): Promise<number> => {
          let files = 0;
          for await (const [, entry] of (
            folder as unknown as { entries(): AsyncIterable<[string, FileSystemHandle]> }
          ).entries())
            files += entry.kind === 'file' ? 1 : await count(entry as FileSystemDirectoryHandle);
          return files;
        };
        return count(await navigator.storage.getDirectory()).catch(() => undefined);
      });
    await page.getByRole('link', { name: 'Balance', exact: true }).click();
    await page.getByRole('slider', { name: 'Violins I, Close', exact: true }).click();
    const stem = page.getByRole('combobox', { name: 'Stem' }).first();
    await stem.fill('Dry strings');
    await stem.press('Enter');
    await page.getByRole('link', { name: 'Deliver', exact: true }).click();
    // What was made before is still offered.
    const before = await page.getByRole('link', { name: 'Save' }).count();
    expect(before).toBeGreaterThan(3);
    await expect.poll(onDisk).toBeGreaterThan(0);
    const held = (await onDisk()) ?? 0;
    await page.getByLabel('Write').selectOption({ label: 'The mix, each stem, and the hall' });
    await page.getByLabel('All of it in one zip').uncheck();
    await page.getByRole('button', { name: 'Bounce the cue' }).click();
    await expect(page.getByText(/-Dry-strings\.wav$/)).toBeVisible({ timeout: 120_000 });
    const made = (await page.getByRole('link', { name: 'Save' }).count()) - before;
    await expect.poll(onDisk).toBe(held + made);
    for (let n = 0; n < made; n++)
      await page
        .getByRole('button', { name: /off the list$/ })
        .first()
        .click();
    await expect.poll(onDisk).toBe(held);
    await page.getByRole('button', { name: 'Undo' }).click();
  });

  await test.step('one that is cancelled leaves nothing behind, in the list or in memory', async () => {
    const used = () =>
      page.evaluate(() => {
        const farlo = window.farloMeasuring;
        return farlo ? farlo.pageMemory().usedBytes : 0;
      });
    const before = await page.getByRole('link', { name: 'Save' }).count();
    const held = await used();
    await page.getByRole('button', { name: 'Bounce the cue' }).click();
    await page.getByRole('button', { name: 'Cancel' }).click();
    await expect(page.getByRole('button', { name: 'Bounce the cue' })).toBeVisible();
    expect(await page.getByRole('link', { name: 'Save' }).count()).toBe(before);
    await expect.poll(used).toBe(held);
  });
});
