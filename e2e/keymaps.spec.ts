import { expect, test, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { readKeymapCsv, readKeymapJson, readNameDocument, writeWav } from '#core/formats/index.ts';
import { DEMO_LIBRARIES } from '#core/recording/index.ts';
import { enter, loaded, zipOf } from './helpers.ts';

/** Opens Keymaps on an instrument by its name. */
async function keymap(page: Page, name: string): Promise<void> {
  await page.getByRole('link', { name: 'Keymaps', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Keymaps' })).toBeVisible();
  await page.getByRole('searchbox', { name: 'Find an instrument' }).fill(name);
  await page.getByRole('navigation', { name: 'Keymaps' }).getByRole('link', { name }).first().click();
  await expect(page.getByRole('table', { name: 'Articulations of the keymap' })).toBeVisible();
}
const row = (page: Page, name: string) =>
  page
    .getByRole('table', { name: 'Articulations of the keymap' })
    .getByRole('row')
    .filter({ has: page.getByRole('button', { name: new RegExp(`^${name}( ·|$)`) }) });
const pick = (page: Page, name: string) =>
  row(page, name)
    .getByRole('button', { name: new RegExp(`^${name}`) })
    .click();
const beside = (page: Page) => page.getByRole('complementary', { name: 'Beside the keymap' });
async function typeKey(page: Page, name: string, key: string): Promise<void> {
  await pick(page, name);
  const field = page.getByRole('textbox', { name: `Keyswitch of ${name}` });
  await field.fill(key);
  await field.press('Enter');
}
async function undo(page: Page, times = 1): Promise<void> {
  for (let i = 0; i < times; i++) await page.getByRole('button', { name: 'Undo' }).click();
}
/** Mean momentary loudness over some seconds while something sounds. */
function meanLoudness(page: Page, seconds: number): Promise<number> {
  return page.evaluate(async (ms) => {
    let power = 0;
    let count = 0;
    const end = performance.now() + ms;
    while (performance.now() < end) {
      await new Promise((resolve) => setTimeout(resolve, 50));
      power += 10 ** ((window.farloMeasuring?.meters.momentary ?? -100) / 10);
      count++;
    }
    return 10 * Math.log10(power / count);
  }, seconds * 1000);
}

test('keys are given by rule, and every clash is told and mended', async ({ page }) => {
  await enter(page);
  await keymap(page, 'Trombones');
  await test.step('by rule, with what would change seen first', async () => {
    await page.getByRole('button', { name: 'Keys by rule' }).click();
    await page.getByLabel('One key for a technique').uncheck();
    await page.getByLabel('Nearest to it').selectOption({ label: 'the vocabulary’s first' });
    const list = beside(page).getByRole('list', { name: 'What the rules would change' });
    await expect(list.getByRole('listitem').first()).toContainText('is the nearest free key');
    await page.getByRole('button', { name: 'Give these keys' }).click();
    await expect(beside(page).getByRole('heading', { name: 'Nothing would change' })).toBeVisible();
    await page.getByRole('button', { name: 'Keys by rule' }).click();
  });
  await test.step('a switch inside the range', async () => {
    await typeKey(page, 'staccato', 'C4');
    const clash = beside(page).getByRole('listitem').filter({ hasText: 'C4 is a note of Trombones' }).first();
    await expect(clash).toBeVisible();
    await clash.getByRole('button', { name: /^Move it to/ }).click();
    await expect(clash).toBeHidden();
  });
  await test.step('the same key twice is not taken', async () => {
    const long = (await row(page, 'long').getByRole('cell').nth(3).textContent()) ?? '';
    const before = await row(page, 'staccato').getByRole('cell').nth(3).textContent();
    await typeKey(page, 'staccato', long.trim());
    const alert = beside(page).getByRole('alert').filter({ hasText: 'already selects' });
    await expect(alert).toContainText('Nothing was changed.');
    expect(await row(page, 'staccato').getByRole('cell').nth(3).textContent()).toBe(before);
    await alert.getByRole('button', { name: /^Move it to/ }).click();
    await expect(alert).toBeHidden();
    expect(await row(page, 'staccato').getByRole('cell').nth(3).textContent()).not.toBe(before);
  });
  await test.step('ranges that overlap are not taken, and cut apart', async () => {
    await pick(page, 'long');
    await page.getByLabel('or by …').selectOption('velocity');
    await page.getByRole('textbox', { name: 'Highest value' }).fill('90');
    await page.getByRole('textbox', { name: 'Highest value' }).press('Enter');
    await pick(page, 'accented');
    await page.getByLabel('or by …').selectOption('velocity');
    const low = page.getByRole('textbox', { name: 'Lowest value' });
    await low.fill('60');
    await low.press('Enter');
    const alert = beside(page).getByRole('alert').filter({ hasText: 'between 60 and 90 it would be both' });
    await alert.getByRole('button', { name: 'Let it answer to 91 to 127' }).click();
    await expect(row(page, 'accented')).toContainText('Velocity from 91 to 127');
  });
  await test.step('what nothing selects, and nothing that holds from the beginning', async () => {
    await pick(page, 'muted');
    await page.getByRole('button', { name: 'Remove the trigger' }).click();
    const gap = beside(page).getByRole('listitem').filter({ hasText: 'Nothing selects muted' });
    await gap.getByRole('button', { name: /^Give it/ }).click();
    await expect(gap).toBeHidden();
    await pick(page, 'long');
    await page.getByRole('button', { name: 'Take out' }).click();
    const none = beside(page)
      .getByRole('listitem')
      .filter({ hasText: 'No articulation holds from the beginning' });
    await none.getByRole('button', { name: /^Begin with/ }).click();
    await expect(none).toBeHidden();
    await undo(page, 2);
    await expect(row(page, 'long')).toContainText('from the beginning');
  });
  await test.step('a tab is moved by the arrow keys, and by dragging', async () => {
    const tab = page.getByRole('button', { name: /^staccato, latching/ });
    const name = (await tab.getAttribute('aria-label')) ?? '';
    await tab.focus();
    await page.keyboard.press('PageDown');
    await expect(page.getByRole('button', { name })).toHaveCount(0);
    await undo(page);
    await expect(page.getByRole('button', { name })).toHaveCount(1);
  });
  await test.step('the key that is played becomes the switch', async () => {
    await pick(page, 'swell');
    await page.getByRole('button', { name: 'Play it', exact: true }).click();
    const strip = page.getByRole('region', { name: 'Playing strip' });
    const key = await strip.locator('[data-key="24"]').boundingBox();
    await page.mouse.click((key?.x ?? 0) + 4, (key?.y ?? 0) + 40);
    await expect(page.getByRole('textbox', { name: 'Keyswitch of swell' })).toHaveValue('C1');
    await expect(page.getByLabel('What was played')).toContainText('C1');
  });
  // What was tried is taken back, so that the next test meets the maker's keys.
  while (await page.getByText('the house’s keymap').isVisible()) await undo(page);
});

test('a track keeps its own keymap, and shows how it differs', async ({ page }) => {
  await enter(page);
  await page.getByRole('link', { name: 'Change it in Keymaps' }).click();
  await page.getByRole('button', { name: 'Keep an own one' }).click();
  await expect(page.getByText('an own keymap, like Violins I')).toBeVisible();
  await typeKey(page, 'staccato', 'A1');
  await expect(
    page.getByText('an own keymap, one difference').or(page.getByText('1 difference from')),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Show the difference' }).click();
  await expect(beside(page).getByRole('listitem')).toContainText(['here: A1']);
  await expect(beside(page).getByRole('listitem')).toContainText(['there: D1']);
  await page.getByRole('button', { name: 'Play by the house’s' }).click();
  await expect(page.getByText('the house’s keymap “Violins I”')).toBeVisible();
  await expect(row(page, 'staccato')).toContainText('D1');
});

test('a controller is learned from the stand-in, linked, and put back', async ({ page }) => {
  await enter(page);
  await page.getByRole('link', { name: 'Keymaps', exact: true }).click();
  await page.getByRole('button', { name: 'Controllers' }).click();
  await page.getByRole('button', { name: /^dynamics/ }).click();
  await page.getByRole('button', { name: 'Stand-in keyboard' }).click();
  await page.getByRole('button', { name: 'Learn' }).click();
  await page.getByRole('slider', { name: 'Fader 2: expression' }).focus();
  await page.keyboard.press('ArrowLeft');
  await expect(page.getByRole('button', { name: /^dynamics/ })).toContainText('controller 11');
  await page.getByRole('button', { name: /^vibrato amount/ }).click();
  await page.getByLabel('Moved by').selectOption({ label: 'dynamics' });
  await expect(page.getByRole('button', { name: /^vibrato amount/ })).toContainText('follows dynamics');
  // What is learned and linked is what the engine hears: one fader moves both.
  await page.getByRole('slider', { name: 'Fader 2: expression' }).focus();
  await page.keyboard.press('Home');
  await page.getByRole('button', { name: 'All as usual' }).click();
  await expect(page.getByRole('button', { name: /^dynamics/ })).toContainText('controller 1');
  await expect(page.getByRole('button', { name: /^vibrato amount/ })).toContainText('controller 77');
  await page.getByRole('button', { name: 'Put the stand-in keyboard away' }).click();
});

test('a morph is made, ridden and heard, without a dip between its ends', async ({ page }) => {
  test.setTimeout(120_000);
  await enter(page);
  await page.getByRole('link', { name: 'Keymaps', exact: true }).click();
  await pick(page, 'long');
  const more = page.getByLabel('Let something else sound with it');
  await more.selectOption({ label: 'near bridge' });
  await more.selectOption({ label: 'over fingerboard' });
  await page.getByLabel('A controller goes from one to the next').check();
  await expect(row(page, 'long')).toContainText('by controller 2');
  await loaded(page);
  const send = (bytes: number[]) =>
    page.evaluate((message) => window.farloMeasuring?.send(message as [number, number, number]), bytes);
  const at = async (value: number) => {
    await send([0xb0, 2, value]);
    await page.waitForTimeout(700);
    return meanLoudness(page, 4);
  };
  await send([0xb0, 2, 0]);
  // A chord, so that the players' own beating evens out.
  for (const key of [62, 67, 71, 74, 79]) await send([0x90, key, 90]);
  await page.waitForTimeout(1200);
  const levels: number[] = [];
  for (const value of [0, 32, 64, 96, 127]) levels.push(await at(value));
  for (const key of [62, 67, 71, 74, 79]) await send([0x80, key, 0]);
  // Between two ends no place is half a decibel below the softer, or above the louder of them.
  for (const [low, middle, high] of [
    [0, 1, 2],
    [2, 3, 4],
  ]) {
    expect(levels[middle]).toBeGreaterThan(Math.min(levels[low], levels[high]) - 0.5);
    expect(levels[middle]).toBeLessThan(Math.max(levels[low], levels[high]) + 0.5);
  }
  await undo(page, 3);
  await expect(row(page, 'long')).toContainText('● own');
});

test('lists and files are taken along and brought in again', async ({ page }, info) => {
  await enter(page);
  await page.getByRole('link', { name: 'Keymaps', exact: true }).click();
  await page.getByRole('button', { name: 'Take along' }).click();
  const saved = async (name: string) => {
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      beside(page).getByRole('button', { name, exact: true }).click(),
    ]);
    const path = info.outputPath(download.suggestedFilename());
    await download.saveAs(path);
    return { path, text: readFileSync(path, 'utf8') };
  };
  const html = await saved('List as a page');
  expect(html.text).toContain('<td>C1</td><td>long (from the beginning)</td>');
  const csv = await saved('Table (CSV)');
  const json = await saved('JSON');
  const names = await saved('MIDI names');
  const keys = [readKeymapCsv(csv.text), readKeymapJson(json.text), readNameDocument(names.text)].map(
    (read) =>
      Object.fromEntries(
        read.keymap.entries.map(({ articulation, triggers }) => [articulation, triggers[0]?.number]),
      ),
  );
  for (const one of keys) expect(one).toMatchObject({ long: 24, connected: 25, staccato: 26, pizzicato: 27 });
  expect((await saved('SFZ labels')).text).toContain('sw_last=26 sw_label=staccato');
  await test.step('a file that counts octaves otherwise, with lines that make no sense', async () => {
    // The octaves of a program whose middle C is C3, and another key for one articulation.
    const elsewhere = csv.text.replace(/,([A-G]#?)1,(\d+),/g, ',$10,$2,').replace(',D0,26,', ',B0,35,');
    await page.getByLabel('Keymap file').setInputFiles({
      name: 'from-elsewhere.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(`${elsewhere}whistled,key,D1,38,,,,,,,\r\nlong,lever,,1,,,,,,,\r\n`),
    });
    await expect(beside(page).getByText('counts octaves from another middle C (C3)')).toBeVisible();
    await expect(beside(page).getByText('“whistled” is no articulation of the house')).toBeVisible();
    await expect(beside(page).getByText('“lever” is nothing a keymap knows')).toBeVisible();
    await expect(row(page, 'staccato')).toContainText('D1');
    await page.getByRole('button', { name: 'Take these in' }).click();
    await expect(row(page, 'staccato')).toContainText('B1');
    await undo(page);
    await expect(row(page, 'staccato')).toContainText('D1');
  });
});

/** What the makers’ labels mean, where they do not use the house’s word. */
const LABELLED: Readonly<Record<string, string>> = { 'long ah': 'ah' };

test('coverage agrees with what was recorded, and leads from a gap to Listen', async ({ page }) => {
  await enter(page);
  await page.getByRole('link', { name: 'Keymaps', exact: true }).click();
  await page.getByRole('link', { name: 'Coverage' }).click();
  for (const library of DEMO_LIBRARIES.filter(({ instruments }) => instruments.length > 0)) {
    await page.getByLabel('Instruments').selectOption({ label: library.name });
    await expect(
      page.getByRole('columnheader', { name: library.instruments[0].name, exact: true }),
    ).toBeVisible();
    const own = await page
      .getByRole('button', { name: /: own, / })
      .evaluateAll((cells) => cells.map((cell) => cell.getAttribute('aria-label')?.split(': own')[0] ?? ''));
    const recorded = library.instruments.flatMap((instrument) =>
      instrument.techniques.map(({ id, label }) => `${LABELLED[label ?? ''] ?? id}, ${instrument.name}`),
    );
    for (const one of recorded) expect(own, library.name).toContain(one);
  }
  await page.getByLabel('Instruments').selectOption({ label: 'Wrenlow Strings, large' });
  await page.getByLabel('Rows').selectOption({ label: 'with gaps' });
  // The section that was recorded without some techniques, on purpose.
  const gap = page.getByRole('button', { name: /, Violins II: .*(stands in|missing)/ }).first();
  const technique = (await gap.getAttribute('aria-label'))?.split(',')[0] ?? '';
  await gap.click();
  await page.getByRole('button', { name: 'Hear them in Listen' }).click();
  await expect(page.getByRole('heading', { name: 'Listen' })).toBeVisible();
  await expect(page.getByLabel('Line-up', { exact: true }).locator('option:checked')).toHaveText(
    `${technique} for Violins II`,
  );
  await undo(page);
});

const tone = (hz: number) =>
  writeWav({
    rate: 48_000,
    format: 'i16',
    channels: [
      Float32Array.from({ length: 72_000 }, (_, i) => 0.4 * Math.sin((2 * Math.PI * hz * i) / 48_000)),
    ],
  });

test('from an unknown library to a played part in the house’s words in ten actions', async ({ page }) => {
  await enter(page);
  let actions = 0;
  const act = async (what: Promise<unknown>) => {
    actions++;
    await what;
  };
  await page.getByRole('link', { name: 'Shelf', exact: true }).click();
  await act(page.getByRole('button', { name: 'Bring in sounds' }).click());
  const region = (key: number, label: string) =>
    `<group> sw_last=${key} sw_label=${label}\n<region> sample=a.wav lokey=48 hikey=84 pitch_keycenter=69\n`;
  await act(
    page.getByLabel('Choose files').setInputFiles({
      name: 'skerry.zip',
      mimeType: 'application/zip',
      buffer: await zipOf({
        'Skerry Horn.sfz': `<global> sw_lokey=24 sw_hikey=27 sw_default=24\n${region(24, 'Sustain')}${region(25, 'Stacc short')}${region(26, 'Con sord')}`,
        'a.wav': tone(440),
      }),
    }),
  );
  await act(page.getByRole('textbox', { name: 'Library' }).fill('Skerry Isle'));
  await act(page.getByRole('textbox', { name: 'Maker' }).fill(`Skerry ${Date.now()}`));
  await act(page.getByRole('button', { name: 'Take in' }).click());
  await page.getByPlaceholder('Find a sound').fill('skerry');
  await expect(page.getByRole('button', { name: 'Skerry Horn', exact: true })).toBeVisible({
    timeout: 20_000,
  });
  await act(page.getByRole('link', { name: 'Keymaps', exact: true }).click());
  await page.getByRole('searchbox', { name: 'Find an instrument' }).fill('Skerry');
  await act(
    page.getByRole('navigation', { name: 'Keymaps' }).getByRole('link', { name: 'Skerry Horn' }).click(),
  );
  // Its labels are the house's words already, on its maker's keys.
  for (const [name, key] of [
    ['long', 'C1'],
    ['staccato', 'C#1'],
    ['muted', 'D1'],
  ])
    await expect(row(page, name)).toContainText(key);
  await loaded(page);
  const send = (bytes: number[]) =>
    page.evaluate((message) => window.farloMeasuring?.send(message as [number, number, number]), bytes);
  await act(send([0x90, 25, 100]));
  await act(send([0x90, 60, 100]));
  await expect(page.getByLabel('What was played')).toContainText('staccato');
  await page.waitForFunction(() => (window.farloMeasuring?.meters.momentary ?? -99) > -50);
  expect(actions).toBeLessThanOrEqual(10);
  await test.step('its coverage is what its file says', async () => {
    await page.getByRole('link', { name: 'Coverage' }).click();
    await page.getByLabel('Instruments').selectOption({ label: 'Skerry Isle' });
    const own = await page
      .getByRole('button', { name: /Skerry Horn: own, / })
      .evaluateAll((cells) => cells.map((cell) => cell.getAttribute('aria-label')?.split(',')[0]));
    expect(own).toEqual(['long', 'muted', 'staccato']);
  });
  await page.getByRole('link', { name: 'Shelf', exact: true }).click();
  await page.getByLabel('Group by').selectOption('library');
  await page.getByRole('grid').getByRole('button', { name: 'Skerry Isle', exact: true }).click();
  await page.getByRole('button', { name: 'Take off the shelf' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Take it off the shelf' }).click();
});
