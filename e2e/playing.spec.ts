import { expect, test } from '@playwright/test';
import { draw, enter, grid, loaded, newCue } from './helpers.ts';

const voices = () => window.farloMeasuring?.meters.voices ?? 0;

test('play that is pressed before anything is loaded waits, says so, and plays', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Ilse Marrow' }).click();
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Loads', exact: true })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible({ timeout: 60_000 });
  await expect.poll(() => page.evaluate(voices)).toBeGreaterThan(0);
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect.poll(() => page.evaluate(voices)).toBe(0);

  await test.step('pressed again while it waits, it gives up', async () => {
    await page.reload();
    await page.getByRole('button', { name: 'Play', exact: true }).click();
    await page.getByRole('button', { name: 'Loads', exact: true }).click();
    await loaded(page);
    await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
    expect(await page.evaluate(voices)).toBe(0);
  });
});

test('notes over the limit of the machine give way, and the meter says which, when and why', async ({
  page,
}) => {
  await enter(page);
  await loaded(page);
  await page.getByRole('button', { name: /^Output/ }).click();
  const help = page.getByRole('dialog', { name: 'Notes and machine' });
  await expect(help.getByText('None has had to give way.')).toBeVisible();
  await help.getByRole('button', { name: /Try this machine/ }).click();
  await expect(help.getByText(/This machine managed \d+ on a core/)).toBeVisible();
  const limit = help.getByLabel('Notes that may sound at once');
  expect(Number(await limit.inputValue())).toBeGreaterThanOrEqual(16);
  await limit.fill('3');
  await limit.press('Enter');
  await expect(help.getByText('16 to 512')).toBeVisible();
  await limit.fill('16');
  await limit.press('Enter');
  await page.keyboard.press('Escape');
  // Thirty-two keys held, chromatically from G3 up.
  await page.evaluate(() => {
    for (let key = 55; key < 87; key++) window.farloMeasuring?.send([0x90, key, 100]);
  });
  await expect.poll(() => page.evaluate(voices)).toBe(16);
  await page.getByRole('button', { name: /^Output/ }).click();
  await expect(
    help.getByText(/have had to give way, last .+ of Violins I at .+more notes sounded than/),
  ).toBeVisible();
  await page.evaluate(() => {
    for (let key = 55; key < 87; key++) window.farloMeasuring?.send([0x80, key, 0]);
  });
  await expect.poll(() => page.evaluate(voices)).toBe(0);
  // What was chosen is kept on this machine.
  await page.reload();
  await page.getByRole('button', { name: /^Output/ }).click();
  await expect(help.getByLabel('Notes that may sound at once')).toHaveValue('16');
});

test('while it plays, an edit before a sounding note leaves it as it is, and one that is removed is let go', async ({
  page,
}) => {
  await enter(page);
  await loaded(page);
  await newCue(page, `Edited while playing ${Date.now()}`);
  await draw(page, [
    [0, 1, 67],
    [2, 20, 72],
  ]);
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  const place = page.getByTitle('Time from the start of the cue');
  await expect(place).toHaveText(/0:0[3-5]\.\d/);
  const sounding = await page.evaluate(voices);
  expect(sounding).toBeGreaterThan(0);

  // The first note is over; it goes, and the long one sounds on, as one note.
  const { x, y } = await grid(page);
  await page.mouse.click(x(400), y(67));
  await page.keyboard.press('Delete');
  await page.waitForTimeout(700);
  expect(await page.evaluate(voices)).toBe(sounding);
  // Now the long one itself.
  await page.mouse.click(x(2 * 960 + 4000), y(72));
  await page.keyboard.press('Delete');
  await expect.poll(() => page.evaluate(voices), { timeout: 3000 }).toBe(0);
  // And back.
  await page.keyboard.press('Control+z');
  await expect.poll(() => page.evaluate(voices), { timeout: 3000 }).toBeGreaterThan(0);
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect.poll(() => page.evaluate(voices)).toBe(0);
});

test('a key that is held plays from the pointer, goes along with it, and ends when it is let go', async ({
  page,
}) => {
  await enter(page);
  await newCue(page, `Held ${Date.now() % 100_000}`);
  await draw(page, [
    [4, 4, 72],
    [12, 4, 67],
  ]);
  await loaded(page);
  const { canvas, x, y } = await grid(page);
  await canvas.focus();
  const sounding = () =>
    page.evaluate(() => window.farloMeasuring?.meters.tracks ?? {}).then((tracks) => Object.values(tracks));
  const isHeard = async () => (await sounding()).some(({ peak }) => peak > 0.001);
  // Over silence nothing is heard; over a note it is, though the playhead rests at the beginning.
  await page.mouse.move(x(9.5 * 960), y(70));
  await page.keyboard.down('h');
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible();
  await page.mouse.move(x(4.2 * 960), y(70), { steps: 3 });
  await expect.poll(isHeard).toBe(true);
  await page.keyboard.up('h');
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await expect.poll(() => page.evaluate(voices)).toBe(0);
  await expect(page.getByRole('button', { name: 'Go to a bar or a time' })).toContainText('1.1');
  // Where computer keys play notes, the letter is one.
  await page.getByRole('button', { name: 'Computer keys' }).click();
  await page.mouse.move(x(4.2 * 960), y(70));
  await page.keyboard.down('h');
  await page.waitForTimeout(400);
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await page.keyboard.up('h');
});
