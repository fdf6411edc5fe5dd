import { AxeBuilder } from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { writeWav } from '#core/formats/index.ts';
import { enter } from './helpers.ts';

const tone = (hz: number) =>
  writeWav({
    rate: 48_000,
    format: 'i16',
    channels: [
      Float32Array.from({ length: 48_000 }, (_, i) => 0.5 * Math.sin((6.2831853 * hz * i) / 48_000)),
    ],
  });

async function faults(page: Page): Promise<string[]> {
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
    .analyze();
  return violations.flatMap((violation) =>
    violation.nodes.map(
      (node) => `${violation.id}: ${node.target.join(' ')} ${node.failureSummary?.split('\n')[1] ?? ''}`,
    ),
  );
}

for (const colorScheme of ['light', 'dark'] as const)
  test(`every view passes the accessibility checks, ${colorScheme}`, async ({ browser }) => {
    const page = await (await browser.newContext({ colorScheme })).newPage();
    await page.goto('/');
    await expect(page.getByRole('button', { name: 'Ilse Marrow' })).toBeVisible();
    expect(await faults(page)).toEqual([]);
    await enter(page);
    expect(await faults(page)).toEqual([]);
    await page.getByRole('button', { name: 'Stand-in keyboard', exact: true }).click();
    expect(await faults(page)).toEqual([]);
    await page.getByRole('button', { name: 'Score', exact: true }).click();
    await page.getByRole('button', { name: 'Time', exact: true }).click();
    await expect(page.getByRole('region', { name: 'Score' }).locator('.vf-notehead').first()).toBeVisible();
    expect(await faults(page)).toEqual([]);
    await page.getByRole('link', { name: 'Shelf' }).click();
    await page.getByPlaceholder('Find a sound').fill('wrenlow large');
    await page.getByRole('button', { name: 'Violins I', exact: true }).click();
    expect(await faults(page)).toEqual([]);
    await page.getByRole('button', { name: 'Wrenlow Strings, large' }).click();
    expect(await faults(page)).toEqual([]);
    await page.getByRole('button', { name: 'Compare two' }).click();
    expect(await faults(page)).toEqual([]);
    await page.getByRole('button', { name: 'Back to all' }).click();
    await page.getByRole('button', { name: 'Bring in sounds' }).click();
    expect(await faults(page)).toEqual([]);
    await page.getByLabel('Choose files').setInputFiles([
      { name: 'Bell_Hit_C4.wav', mimeType: 'audio/wav', buffer: Buffer.from(tone(261.6)) },
      { name: 'Bell_Hit_G4.wav', mimeType: 'audio/wav', buffer: Buffer.from(tone(392)) },
    ]);
    await expect(page.getByText('2 of 2 files can be used')).toBeVisible();
    expect(await faults(page)).toEqual([]);
    await page.keyboard.press('Escape');
    await page.getByRole('link', { name: 'Listen' }).click();
    await page.getByLabel('Line-up', { exact: true }).selectOption('Fast violins');
    const rendered = page.getByRole('gridcell').locator('svg');
    await expect(rendered.nth(2)).toBeVisible({ timeout: 60_000 });
    // Another test may have had it measured already.
    const measure = page.getByRole('button', { name: /^Measure (it|them)$/ });
    await expect(measure.or(page.getByText('Level over key', { exact: true })).first()).toBeVisible();
    if (await measure.isVisible()) await measure.click();
    await expect(page.getByRole('heading', { name: 'A · Violins I', level: 3 })).toBeVisible({
      timeout: 120_000,
    });
    expect(await faults(page)).toEqual([]);
    for (const surface of ['Own phrase', 'Walk', 'Against a recording', 'Verdicts and gaps']) {
      await page.getByRole('button', { name: surface, exact: true }).click();
      expect(await faults(page)).toEqual([]);
    }
    await page.getByRole('button', { name: /^Back to/ }).click();
    await page.getByRole('button', { name: 'Blind', exact: true }).click();
    expect(await faults(page)).toEqual([]);
    await page.getByRole('link', { name: 'Balance', exact: true }).click();
    await page.getByRole('button', { name: /^Measure bars/ }).click();
    await expect(page.getByText('sections play', { exact: false })).toBeVisible({ timeout: 60_000 });
    expect(await faults(page)).toEqual([]);
    await page.getByRole('slider', { name: 'Violins I, Tree', exact: true }).focus();
    await expect(page.getByRole('heading', { name: 'Aims' })).toBeVisible();
    expect(await faults(page)).toEqual([]);
    await page.getByRole('button', { name: 'Seating', exact: true }).click();
    await page.getByRole('button', { name: 'Seatings' }).click();
    await page.getByRole('menuitem', { name: 'Violins together' }).click();
    await page.getByRole('button', { name: /^Violins I: / }).focus();
    expect(await faults(page)).toEqual([]);
    await page.getByRole('button', { name: 'Levels', exact: true }).click();
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('link', { name: 'Keymaps', exact: true }).click();
    await page.getByRole('button', { name: 'staccato', exact: true }).click();
    expect(await faults(page)).toEqual([]);
    for (const panel of ['Keys by rule', 'Compare and copy', 'Controllers', 'Words', 'Take along']) {
      await page.getByRole('button', { name: panel }).click();
      if (panel === 'Controllers') await page.getByRole('button', { name: /^dynamics/ }).click();
      expect(await faults(page)).toEqual([]);
    }
    await page.getByRole('link', { name: 'Coverage' }).click();
    await page
      .getByRole('button', { name: /^staccato, / })
      .first()
      .click();
    expect(await faults(page)).toEqual([]);
    await page.getByRole('link', { name: 'Vocabulary' }).click();
    await page.getByRole('button', { name: 'tremolo', exact: true }).click();
    expect(await faults(page)).toEqual([]);
    await page.getByRole('link', { name: 'Deliver' }).click();
    expect(await faults(page)).toEqual([]);
    await page.close();
  });

test('the page never scrolls at 1280×800', async ({ page }) => {
  await enter(page);
  for (const view of ['Shelf', 'Listen', 'Keymaps', 'Cue', 'Deliver']) {
    await page.getByRole('link', { name: view, exact: true }).click();
    const size = await page.evaluate(() => [
      document.documentElement.scrollWidth,
      document.documentElement.scrollHeight,
    ]);
    expect(size).toEqual([1280, 800]);
  }
});

test('what is drawn follows when the theme is changed in place', async ({ page }) => {
  await page.emulateMedia({ colorScheme: 'light' });
  await enter(page);
  await page.getByRole('link', { name: 'Cue' }).click();
  const canvases = page.locator('[data-editor] canvas');
  await expect(canvases.first()).toBeVisible();
  /** Mean lightness of each canvas, 0 … 255. */
  const lightness = () =>
    canvases.evaluateAll((list) =>
      list.map((element) => {
        const canvas = element as HTMLCanvasElement;
        const { data } = canvas.getContext('2d')?.getImageData(0, 0, canvas.width, canvas.height) ?? {
          data: [],
        };
        let sum = 0;
        for (let i = 0; i < data.length; i += 4) sum += (data[i] + data[i + 1] + data[i + 2]) / 3;
        return (4 * sum) / data.length;
      }),
    );
  await expect.poll(async () => Math.min(...(await lightness()))).toBeGreaterThan(190);
  await page.getByRole('button', { name: /Ilse Marrow/ }).click();
  await page.getByRole('menuitem', { name: 'Use the dark theme' }).click();
  await expect.poll(async () => Math.max(...(await lightness()))).toBeLessThan(80);
});
