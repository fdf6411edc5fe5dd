import { expect, test, type Page } from '@playwright/test';
import { enter, grid, newCue, draw } from './helpers.ts';

const saved = (page: Page) => expect(page.getByRole('status').filter({ hasText: /^Saved \d/ })).toBeVisible();

test('two people in one cue see each other’s edits, and nothing is overwritten in silence', async ({
  browser,
}) => {
  const first = await (await browser.newContext()).newPage();
  const second = await (await browser.newContext()).newPage();
  await enter(first);
  const name = `Together ${Date.now() % 100_000}`;
  await newCue(first, name);
  await draw(first, [[0, 1, 67]]);
  await saved(first);
  await enter(second, 'Tomas Oake');
  await second.getByLabel('Cue', { exact: true }).selectOption({ label: name });
  await expect(second.getByRole('application', { name: 'Notes of Violins I: 1' })).toBeVisible();
  await draw(first, [[2, 1, 71]]);
  await expect(second.getByRole('application', { name: 'Notes of Violins I: 2' })).toBeVisible();

  // The second does not hear of the first's change before making its own on the same note.
  await second.route('**/events', (route) => route.abort());
  await second.reload();
  await expect(second.getByRole('application', { name: 'Notes of Violins I: 2' })).toBeVisible();
  const nudge = async (page: Page, key: string) => {
    const { canvas, x, y } = await grid(page);
    await page.mouse.click(x(300), y(67));
    await canvas.focus();
    await page.keyboard.press(key);
  };
  await nudge(first, 'ArrowUp');
  await saved(first);
  await nudge(second, 'ArrowDown');
  await expect(second.getByText(/A colleague changed the same note meanwhile/)).toBeVisible();
});

test('two people in one cue see what the other has chosen, until they leave', async ({ browser }) => {
  const first = await (await browser.newContext()).newPage();
  const second = await (await browser.newContext()).newPage();
  await enter(first);
  const name = `Beside ${Date.now() % 100_000}`;
  await newCue(first, name);
  await draw(first, [
    [0, 1, 67],
    [2, 1, 71],
  ]);
  await saved(first);
  await enter(second, 'Tomas Oake');
  await second.getByLabel('Cue', { exact: true }).selectOption({ label: name });
  await expect(second.getByRole('application', { name: 'Notes of Violins I: 2' })).toBeVisible();
  // Each learns where the other is, whoever came first.
  await expect(first.getByText('also here: Tomas Oake')).toBeAttached();
  await expect(second.getByText('also here: Ilse Marrow')).toBeAttached();
  const { canvas } = await grid(first);
  await canvas.focus();
  await first.keyboard.press('Control+a');
  await expect(second.getByText('Ilse Marrow: 2 notes')).toBeVisible();
  await first.keyboard.press('Escape');
  await expect(second.getByText('Ilse Marrow: 2 notes')).toHaveCount(0);
  const { x, y } = await grid(first);
  await first.mouse.click(x(300), y(67));
  await expect(second.getByText('Ilse Marrow: a note')).toBeVisible();
  await first.getByRole('link', { name: 'Shelf' }).click();
  await expect(second.getByText('Ilse Marrow: a note')).toHaveCount(0);
  await first.close();
});

test('edits made while the server is away arrive when it is back', async ({ page }) => {
  await enter(page);
  await newCue(page, `Away ${Date.now() % 100_000}`);
  await saved(page);
  await page.route('**/patches', (route) => route.abort());
  await draw(page, [
    [0, 1, 67],
    [1, 1, 69],
  ]);
  await expect(page.getByRole('status').filter({ hasText: 'Kept here' })).toBeVisible();
  await page.reload();
  await expect(page.getByRole('application', { name: 'Notes of Violins I: 2' })).toBeVisible();
  await page.unroute('**/patches');
  await saved(page);
  await page.reload();
  await expect(page.getByRole('application', { name: 'Notes of Violins I: 2' })).toBeVisible();
});

test('a viewer may look and listen, but not change', async ({ page }) => {
  await enter(page, 'Wren Calder');
  await expect(page.getByRole('button', { name: 'New cue' })).toBeDisabled();
  await expect(page.getByRole('slider', { name: 'Tree', exact: true })).toHaveAttribute(
    'aria-disabled',
    'true',
  );
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await page.waitForFunction(() => (window.farloMeasuring?.meters.momentary ?? -99) > -60);
});

test('an unplugged keyboard lets its notes go and says so', async ({ page }) => {
  await page.addInitScript(() => {
    const input = {
      id: 'k1',
      name: 'Test keys',
      state: 'connected',
      onmidimessage: null as ((event: { data: Uint8Array }) => void) | null,
    };
    const access = { inputs: new Map([['k1', input]]), onstatechange: null as (() => void) | null };
    Object.assign(window, { testKeys: { input, access } });
    Object.defineProperty(navigator, 'requestMIDIAccess', { value: () => Promise.resolve(access) });
  });
  await enter(page);
  await page.getByRole('button', { name: 'Use a MIDI keyboard' }).click();
  await expect(page.getByText('● Test keys')).toBeVisible();
  type Keys = {
    testKeys: {
      input: { onmidimessage: (event: { data: Uint8Array }) => void };
      access: { inputs: Map<string, unknown>; onstatechange: () => void };
    };
  };
  await page.evaluate(() =>
    (window as unknown as Keys).testKeys.input.onmidimessage({ data: new Uint8Array([0x90, 69, 100]) }),
  );
  await page.waitForFunction(() => (window.farloMeasuring?.meters.voices ?? 0) > 0);
  await page.evaluate(() => {
    const { access } = (window as unknown as Keys).testKeys;
    access.inputs.clear();
    access.onstatechange();
  });
  await expect(page.getByText('The MIDI keyboard was unplugged')).toBeVisible();
  await page.waitForFunction(() => window.farloMeasuring?.meters.voices === 0);
});
