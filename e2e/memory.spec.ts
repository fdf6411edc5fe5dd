import { expect, test } from '@playwright/test';
import { enter } from './helpers.ts';

test('ten loads and unloads of an instrument leave the memory of sound as it was', async ({ page }) => {
  await enter(page);
  await page.getByRole('link', { name: 'Shelf' }).click();
  await page.getByPlaceholder('Find a sound').fill('violas large');
  await page.getByRole('button', { name: 'Violas', exact: true }).click();
  const memory = () =>
    page.evaluate(() => {
      const sound = window.farloMeasuring?.pageMemory();
      return { used: sound?.usedBytes ?? 0, held: sound?.heldBytes ?? 0 };
    });
  const all = page.getByRole('button', { name: /^Load all/ });
  const un = page.getByRole('button', { name: 'Unload', exact: true });
  const round = async () => {
    const before = await memory();
    await all.click();
    await expect(all).toBeDisabled();
    await expect(page.getByText(/^(\d+) MB of \1 MB in memory/)).toBeVisible({ timeout: 60_000 });
    const loaded = await memory();
    expect(loaded.used).toBeGreaterThan(before.used + 1_000_000);
    await un.click();
    await expect(page.getByText(/^Nothing in memory|^0 MB of/)).toBeVisible();
    // Given back as soon as nothing reads it any more.
    await expect.poll(async () => (await memory()).used).toBeLessThan(loaded.used - 1_000_000);
    await page.waitForTimeout(200);
    return loaded;
  };
  const first = await round();
  const after = await memory();
  for (let i = 0; i < 9; i++) await round();
  const last = await memory();
  expect(last.used).toBe(after.used);
  expect(last.held).toBeLessThanOrEqual(first.held + 4 * 2 ** 20);
});
