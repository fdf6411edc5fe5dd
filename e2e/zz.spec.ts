import { expect, test } from '@playwright/test';
for (const scheme of ['light', 'dark'] as const)
  test(`look ${scheme}`, async ({ browser }) => {
    test.setTimeout(240_000);
    const page = await (await browser.newContext({ colorScheme: scheme, viewport: { width: 1280, height: 800 } })).newPage();
    await page.goto('/');
    await page.getByRole('button', { name: 'Ilse Marrow' }).click();
    await page.getByLabel('Cue', { exact: true }).selectOption({ label: '3M1 Night Crossing' });
    await expect(page.getByRole('heading', { name: /3M1/ })).toBeVisible({ timeout: 60_000 });
    await page.getByRole('link', { name: 'Balance' }).click();
    await page.getByRole('button', { name: /^Measure bars/ }).click({ timeout: 90_000 });
    await expect(page.getByText('As the engine plays it')).toBeVisible({ timeout: 120_000 });
    await page.screenshot({ path: `/tmp/whole-${scheme}.png` });
    console.log(await page.getByText('As the engine plays it').textContent());
    if (scheme === 'light') {
      await page.getByRole('slider').nth(4).click();
      await page.waitForTimeout(500);
      await page.screenshot({ path: `/tmp/cell-${scheme}.png` });
      await page.getByLabel('Stem').first().scrollIntoViewIfNeeded();
      await page.getByLabel('Stem').first().fill('Close winds');
      await page.getByLabel('Stem').first().press('Enter');
      await page.waitForTimeout(2500);
      await page.screenshot({ path: `/tmp/cell2-${scheme}.png` });
      await page.getByRole('link', { name: 'Deliver' }).click();
      await page.getByLabel('Write').selectOption({ label: 'The mix, each stem, and the hall' });
      await page.getByLabel('All of it in one zip').uncheck();
      await page.getByRole('button', { name: 'Bounce the cue' }).click();
      await expect(page.getByText(/Close-winds|Close winds/)).toBeVisible({ timeout: 120_000 });
      await page.screenshot({ path: `/tmp/deliver-${scheme}.png` });
    }
  });
