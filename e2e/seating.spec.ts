import { expect, test, type Page } from '@playwright/test';
import { writeWav } from '#core/formats/index.ts';
import { enter } from './helpers.ts';

/** Opens Balance on the orchestra. */
async function openOrchestra(page: Page): Promise<void> {
  await enter(page);
  await page.getByLabel('Cue', { exact: true }).selectOption({ label: '3M1 Night Crossing' });
  await expect(page.getByRole('heading', { name: '3M1 Night Crossing' })).toBeVisible();
  await page.getByRole('link', { name: 'Balance' }).click();
  await expect(page.getByRole('heading', { name: 'Balance', level: 1 })).toBeVisible();
}
const place = (page: Page, name: RegExp) =>
  page.getByRole('group', { name: 'Seating plan' }).getByRole('button', { name });

test('sections are seated, moved by hand and by keys, brought there and back, and seatings are kept', async ({
  page,
}) => {
  test.setTimeout(300_000);
  await openOrchestra(page);
  await page.getByRole('button', { name: 'Seating', exact: true }).click();
  await page.getByRole('button', { name: 'Seatings' }).click();
  await page.getByRole('menuitem', { name: 'Violins together' }).click();
  await expect(place(page, /^Violins I, Violins I, short: \d+° left/)).toBeVisible();
  // Longs and shorts sit together; what faces the other way is on the other side.
  await page.getByRole('button', { name: 'Seatings' }).click();
  await page.getByRole('menuitem', { name: 'Violins facing' }).click();
  await expect(place(page, /^Violins II, Violins II, short: \d+° right/)).toBeVisible();

  const oboe = place(page, /^Oboe/);
  await oboe.focus();
  await page.keyboard.press('Enter');
  const right = page.getByLabel('Metres to the right, Oboe');
  const before = Number((await right.inputValue()).replace('−', '-'));
  await page.keyboard.press('ArrowRight');
  await expect(right).toHaveValue((before + 0.25).toFixed(2));
  const box = (await oboe.boundingBox()) ?? { x: 0, y: 0, width: 0, height: 0 };
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x - 60, box.y + box.height / 2, { steps: 6 });
  await page.mouse.up();
  await expect(oboe).toHaveAccessibleName(/° left/);
  await right.fill('far away');
  await right.press('Enter');
  await expect(page.getByRole('alert')).toContainText('A number from −14 to 14 m');
  await right.press('Escape');
  // The drag was one step, the key another.
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(right).toHaveValue((before + 0.25).toFixed(2));

  await page.getByRole('button', { name: 'Seatings' }).click();
  await page.getByRole('menuitem', { name: 'Keep this seating' }).click();
  await page.getByRole('textbox').fill(`Ours ${Date.now()}`);
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await page.getByRole('button', { name: 'Seatings' }).click();
  await expect(page.getByRole('menuitem', { name: /^Ours/ }).first()).toBeVisible();
  await page.keyboard.press('Escape');

  await page.getByRole('button', { name: /^Measure bars/ }).click({ timeout: 120_000 });
  await expect(page.getByRole('button', { name: 'Cancel' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Cancel' })).toHaveCount(0, { timeout: 200_000 });
  await place(page, /^Violins I,/).click();
  const pane = page.getByRole('complementary', { name: 'Beside the balance' });
  await pane.getByRole('button', { name: 'Bring it there' }).click();
  // A figure of what came of it, or how far it could come.
  await expect(pane.getByText(/Its depth came from|It cannot be brought/)).toBeVisible();
});

/** A hall that rings for 0.7 s, as WAV. */
function hall(channels: number): Buffer {
  let seed = 11;
  const noise = () => (seed = (seed * 16_807) % 2_147_483_647) / 1_073_741_823 - 1;
  const one = () =>
    Float32Array.from({ length: 48_000 }, (_, i) => 0.4 * 10 ** ((-3 * i) / 33_600) * noise());
  return Buffer.from(
    writeWav({ rate: 48_000, format: 'i16', channels: Array.from({ length: channels }, one) }),
  );
}

test('a hall of one’s own is taken in, chosen and left again; what is none is refused', async ({ page }) => {
  const name = `Rope walk ${Date.now()}`;
  await openOrchestra(page);
  await page.getByText('The hall itself').click();
  const choice = page.getByLabel('Hall', { exact: true }).last();
  await page
    .getByLabel('Impulse response')
    .setInputFiles({ name: `${name}.wav`, mimeType: 'audio/wav', buffer: hall(4) });
  await expect(choice).toHaveText(new RegExp(name));
  await expect(page.getByText('four channels: each side is heard at both')).toBeVisible();
  await page
    .getByLabel('Impulse response')
    .setInputFiles({ name: 'Three.wav', mimeType: 'audio/wav', buffer: hall(3) });
  await expect(page.getByText('A hall has one, two, or four')).toBeVisible();
  await page.getByRole('button', { name: 'Seating', exact: true }).click();
  await expect(page.getByText('walls are not known')).toBeVisible();
  await page.getByRole('button', { name: 'Remove it' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(choice).toHaveValue('harbour');
  await expect(choice).not.toHaveText(new RegExp(name));
  await expect(page.getByText('walls are not known')).toBeHidden();
});

test('the level of a position is drawn over a cue, told in Balance, and rests again', async ({ page }) => {
  await openOrchestra(page);
  await page.getByRole('link', { name: 'Cue' }).click();
  await page.getByLabel('Show another lane').selectOption('Close, level');
  const lane = page.getByRole('application', { name: /^Level of Close/ });
  await lane.focus();
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowUp');
  await expect(lane).toHaveAccessibleName(/1 points.*\+?2.0 dB against the mix/);
  const box = (await lane.boundingBox()) ?? { x: 0, y: 0, width: 0, height: 0 };
  await page.mouse.move(box.x + 200, box.y + 40);
  await page.mouse.down();
  await page.mouse.move(box.x + 300, box.y + 12, { steps: 8 });
  await page.mouse.up();
  await expect(lane).toHaveAccessibleName(/[3-9] points/);
  await page.getByRole('link', { name: 'Balance' }).click();
  await page.getByRole('slider', { name: 'Piccolo, Close' }).focus();
  await expect(page.getByText(/Its level moves in this cue: \d points/)).toBeVisible();
  await page.getByRole('button', { name: 'Let it rest' }).click();
  await expect(page.getByText('Its level rests in this cue')).toBeVisible();
});
