import { expect, test, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { writeWav } from '#core/formats/index.ts';
import { enter, loaded, zipOf } from './helpers.ts';

const tone = (hz: number, seconds = 1.5, rate = 44_100) =>
  writeWav({
    rate,
    format: 'i24',
    channels: [
      Float32Array.from({ length: seconds * rate }, (_, i) => {
        const t = i / rate;
        return 0.4 * Math.min(1, t / 0.02) * (Math.sin(6.2831853 * hz * t) + 0.3 * Math.sin(12.566 * hz * t));
      }),
    ],
  });

async function shelf(page: Page): Promise<void> {
  await page.getByRole('link', { name: 'Shelf' }).click();
  await expect(page.getByRole('heading', { name: 'Shelf' })).toBeVisible();
}

async function bringIn(page: Page, files: Parameters<ReturnType<Page['getByLabel']>['setInputFiles']>[0]) {
  await page.getByRole('button', { name: 'Bring in sounds' }).click();
  await page.getByLabel('Choose files').setInputFiles(files);
}

const zipFile = async (name: string, files: Record<string, string | Uint8Array>) => ({
  name,
  mimeType: 'application/zip',
  buffer: await zipOf(files),
});

/** Waits until something is heard. */
const heard = (page: Page) =>
  page.waitForFunction(() => (window.farloMeasuring?.meters.momentary ?? -99) > -50, undefined, {
    timeout: 15_000,
  });

test('a zip is taken in with a corrected mapping, played, used in a cue, exported, and taken in again', async ({
  page,
}) => {
  await enter(page);
  await shelf(page);
  await bringIn(
    page,
    await zipFile('mooring.zip', {
      'Mooring Whistle.sfz':
        '<global>eq1_gain=3 ampeg_release=0.3 group_label=Zephyr\n<region>sample=tones/low.wav lokey=48 hikey=66 pitch_keycenter=60\n<region>sample=tones/high.wav lokey=67 hikey=90 pitch_keycenter=72',
      'tones/low.wav': tone(261.63),
      'tones/high.wav': tone(523.25),
    }),
  );
  await page.getByRole('textbox', { name: 'Library' }).fill('Mooring Sounds');
  await page.getByRole('textbox', { name: 'Maker' }).fill(`Mooring ${Date.now()}`);
  // The label means nothing to Farlo; the user says what it is.
  await expect(page.getByText('no word Farlo knows')).toBeVisible();
  await page.getByLabel('Technique of Zephyr').selectOption('tremolo');
  await expect(page.getByText('means what you say')).toBeVisible();
  await page.getByRole('button', { name: 'Take in' }).click();

  await page.getByPlaceholder('Find a sound').fill('mooring whistle');
  await page.getByRole('button', { name: 'Mooring Whistle', exact: true }).click();
  await page.getByRole('button', { name: 'Hear Zephyr' }).click();
  await heard(page);
  // What could not be used, and what was converted, is told with the library.
  await page.getByRole('button', { name: 'Mooring Sounds' }).click();
  await expect(page.getByText('eq1_gain')).toBeVisible();
  await expect(page.getByText('2 recordings converted from 44,100 Hz to 48,000 Hz')).toBeVisible();

  await test.step('in a cue', async () => {
    await page.getByRole('link', { name: 'Cue' }).click();
    await page.getByRole('button', { name: 'Add a track to the template' }).click();
    await page
      .getByLabel('Instrument', { exact: true })
      .selectOption({ label: 'Mooring Whistle · Mooring Sounds' });
    await expect(page.getByRole('slider', { name: 'Mix', exact: true })).toBeVisible();
    await loaded(page);
    const strip = page.getByRole('region', { name: 'Playing strip' });
    const key = await strip.locator('[data-key="69"]').boundingBox();
    await page.mouse.move((key?.x ?? 0) + 4, (key?.y ?? 0) + 40);
    await page.mouse.down();
    await heard(page);
    await page.mouse.up();
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('button', { name: 'Undo' }).click();
  });
  await test.step('taken along and back', async () => {
    await shelf(page);
    await page.getByRole('button', { name: 'Mooring Whistle', exact: true }).click();
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Take along as SFZ' }).click();
    const file = await download;
    expect(file.suggestedFilename()).toBe('Mooring Whistle.zip');
    await bringIn(page, {
      name: 'back.zip',
      mimeType: 'application/zip',
      buffer: readFileSync(await file.path()),
    });
    await page.getByRole('textbox', { name: 'Library' }).fill('Mooring again');
    // The export speaks the house vocabulary; nothing needs to be corrected.
    const word = page.getByRole('row', { name: /tremolo group label/ });
    await expect(word.getByLabel('Technique of tremolo')).toHaveValue('tremolo');
    await page.getByRole('button', { name: 'Take in' }).click();
    await page.getByPlaceholder('Find a sound').fill('mooring again');
    await page.getByRole('button', { name: 'Mooring Whistle', exact: true }).click();
    await page.getByRole('button', { name: 'Mooring again' }).click();
    await expect(page.getByText('(all were stored already)')).toBeVisible();
  });
  await test.step('off the shelf', async () => {
    for (const name of ['Mooring again', 'Mooring Sounds']) {
      await page.getByLabel('Group by').selectOption('library');
      await page.getByPlaceholder('Find a sound').fill(name);
      await page.getByRole('grid').getByRole('button', { name, exact: true }).click();
      await page.getByRole('button', { name: 'Take off the shelf' }).click();
      await page.getByRole('dialog').getByRole('button', { name: 'Take it off the shelf' }).click();
      await expect(page.getByText('Nothing on the shelf fits')).toBeVisible();
    }
  });
});

/** A note with breath, as a position hears it: later, softer, its waves turned over if so. */
const positioned = (hz: number, lateSeconds: number, level: number, sign: number) => {
  const rate = 48_000;
  let seed = Math.round(hz);
  const breath = Float32Array.from({ length: 2 * rate }, () => {
    seed = (Math.imul(seed, 1_103_515_245) + 12_345) & 0x7fffffff;
    return seed / 0x40000000 - 1;
  });
  return writeWav({
    rate,
    format: 'i24',
    channels: [1, 0.8].map((side) =>
      Float32Array.from({ length: 1.8 * rate }, (_, i) => {
        const t = i / rate - 0.01 - lateSeconds;
        if (t < 0) return 0;
        const shape = side * sign * level * Math.min(1, t / 0.01) * Math.min(1, Math.max(0, (1.5 - t) / 0.1));
        const at = Math.round(t * rate);
        return shape * (Math.sin(6.2831853 * hz * t) + 0.4 * Math.sin(12.566 * hz * t) + 0.1 * breath[at]);
      }),
    ),
  });
};

test('three files that are positions become one instrument, which is measured with its findings first', async ({
  page,
}) => {
  const keys = [55, 58, 61, 64, 67];
  // Of its own in every run, so that a used shelf has no other one of the name.
  const name = `Heron ${String(Date.now()).slice(-5)} Pipes`;
  const files: Record<string, string | Uint8Array> = {};
  for (const [position, late, level, sign] of [
    ['close', 0, 0.4, 1],
    ['tree', 0.009, 0.25, 1],
    ['far', 0.021, 0.2, -1],
  ] as const) {
    files[`${name} ${position}.sfz`] = keys
      .map(
        (key) =>
          `<region> sample=${position}/${key}.wav lokey=${key - 1} hikey=${key + 1} pitch_keycenter=${key}`,
      )
      .join('\n');
    for (const key of keys)
      files[`${position}/${key}.wav`] = positioned(440 * 2 ** ((key - 69) / 12), late, level, sign);
  }
  await enter(page);
  await shelf(page);
  await bringIn(page, await zipFile('pipes.zip', files));
  const join = page.getByRole('checkbox', { name: `${name} as one instrument` });
  await expect(join).toBeChecked();
  await expect(page.getByText('the same keys, layers and takes in 3 files')).toBeVisible();
  await expect(page.getByLabel(`Position of ${name} tree`)).toHaveValue('tree');
  // Two at one position cannot be; the sentence goes with its cause.
  await page.getByLabel(`Position of ${name} tree`).selectOption('far');
  await expect(page.getByText('Two files are to be the position far.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Take in' })).toBeDisabled();
  await page.getByLabel(`Position of ${name} tree`).selectOption('tree');
  await page.getByRole('textbox', { name: 'Library' }).fill(`${name}, all of them`);
  await page.getByLabel(`Family of ${name}`).selectOption('winds');
  await page.getByRole('button', { name: 'Take in' }).click();
  await page.getByPlaceholder('Find a sound').fill(name);
  await page.getByRole('button', { name, exact: true }).click();
  await page.getByRole('button', { name: 'Hear long' }).click();
  await heard(page);
  for (const position of ['Close', 'Tree', 'Far'])
    await expect(page.getByRole('button', { name: new RegExp(`^${position} \\d`) })).toBeVisible();

  await page.getByRole('button', { name: 'Add to the line-up', exact: true }).click();
  await page.getByRole('link', { name: 'Listen' }).click();
  const measured = page.getByRole('region', { name: 'Measured' });
  const unfold = measured.getByRole('button', { name: 'Unfold the measured report' });
  if (await unfold.isVisible()) await unfold.click();
  await measured.getByRole('button', { name: /^Measure (it|them)$/ }).click();
  const findings = measured.getByRole('region', { name: new RegExp(`^Findings of .*${name}`) });
  const turned = findings.getByText(
    /waves of the far position are turned over against those of the close one/,
  );
  await expect(turned).toBeVisible({ timeout: 120_000 });
  await expect(findings.getByText('Turn its polarity over in Balance')).toBeVisible();
  // Findings stand above the charts.
  const chart = measured.getByText('Level over key').first();
  const [above, below] = [await turned.boundingBox(), await chart.boundingBox()];
  expect(above?.y ?? 1e9).toBeLessThan(below?.y ?? 0);
  await measured.getByLabel('Position').selectOption('far');
  await expect(measured.getByText('21.0 ms')).toBeVisible();

  // The line-up as others expect it.
  await page.getByRole('button', { name: `Take ${name} out of the line-up` }).click();
});

test('a recording of one’s own becomes an instrument: pitch heard, range drawn, loop found', async ({
  page,
}) => {
  await enter(page);
  await shelf(page);
  await bringIn(page, {
    name: 'Foghorn.wav',
    mimeType: 'audio/wav',
    buffer: Buffer.from(tone(146.83, 2, 48_000)),
  });
  await expect(page.getByText('Heard D3')).toBeVisible();
  await expect(page.getByRole('checkbox', { name: 'hold with a loop' })).toBeChecked();
  await page.getByLabel('Highest key').selectOption({ label: 'C5 (72)' });
  // No word of its name tells what it is: that is asked first.
  await expect(page.getByText('Of one nothing tells the family')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Take in' })).toBeDisabled();
  await page.getByLabel('Family of Foghorn').selectOption('brass');
  await page.getByRole('textbox', { name: 'Library' }).fill(`Foghorn of Ellowick ${Date.now()}`);
  await page.getByRole('button', { name: 'Take in' }).click();
  await page.getByPlaceholder('Find a sound').fill('foghorn');
  await page.getByRole('button', { name: 'Foghorn', exact: true }).first().click();
  await page.getByRole('button', { name: 'Hear long' }).click();
  await heard(page);
  // Hands play it on the strip, in every view, also where the range was widened.
  const key = await page
    .getByRole('region', { name: 'Playing strip' })
    .locator('[data-key="72"]')
    .boundingBox();
  await page.mouse.move((key?.x ?? 0) + 4, (key?.y ?? 0) + 40);
  await page.mouse.down();
  await page.waitForFunction(() => (window.farloMeasuring?.meters.voices ?? 0) > 0);
  await page.mouse.up();
});

test('a broken zip is refused with file and line, and leaves nothing', async ({ page }) => {
  await enter(page);
  await shelf(page);
  const count = page.getByText(/^\d+ instruments · \d+ libraries$/);
  const before = await count.textContent();
  await bringIn(page, await zipFile('broken.zip', { 'b.sfz': '<region>\nsample=tones/gone.wav' }));
  await expect(
    page.getByRole('alert').getByText(/b\.sfz, line 2: The sample “tones\/gone\.wav” is not among the files/),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Not now' }).click();
  await expect(count).toHaveText(before ?? '');
});

test('an upload that is given up stops; a name that stands on the shelf is not taken over unasked', async ({
  page,
}) => {
  await enter(page);
  await shelf(page);
  const gone = page.waitForEvent('requestfailed', (request) => request.url().endsWith('/api/imports'));
  // Held back on its way, as on a slow line.
  await page.route('**/api/imports', () => undefined);
  await bringIn(page, { name: 'x.wav', mimeType: 'audio/wav', buffer: Buffer.from(tone(300)) });
  await expect(page.getByText(/^Sending \d+ kB|^Sending [\d.]+ MB/)).toBeVisible();
  await page.getByRole('button', { name: 'Not now' }).click();
  expect((await gone).method()).toBe('POST');
  await page.unroute('**/api/imports');

  await bringIn(page, { name: 'Horn.wav', mimeType: 'audio/wav', buffer: Buffer.from(tone(300)) });
  const take = page.getByRole('button', { name: 'Take in' });
  await page.getByRole('textbox', { name: 'Library' }).fill('pellory winds');
  await expect(page.getByText('“Pellory Winds” stands on the shelf already')).toBeVisible();
  await expect(take).toBeDisabled();
  await page.getByRole('checkbox', { name: /stands on the shelf already/ }).check();
  await expect(take).toBeEnabled();
  await page.getByRole('textbox', { name: 'Library' }).fill('Horn of the quay');
  await expect(page.getByText('stands on the shelf already')).toBeHidden();
  await page.getByRole('button', { name: 'Not now' }).click();
});

test('the shelf is narrowed, ordered and walked by keys; stars, verdicts and sounds stay', async ({
  page,
}) => {
  await enter(page);
  await shelf(page);
  const grid = page.getByRole('grid', { name: 'Instruments' });
  await page.getByPlaceholder('Find a sound').fill('brackwater');
  const family = page.getByRole('group', { name: 'Family' });
  await expect(family.getByRole('button')).toHaveText(['percussion6', 'brass5']);
  await family.getByRole('button', { name: /^brass/ }).click();
  await expect(page.getByText(/^5 of \d+ instruments/)).toBeVisible();
  await grid.getByRole('button', { name: 'Players' }).click();
  await expect(grid.getByRole('gridcell', { name: /Tuba/ })).toBeVisible();
  await page.getByLabel('Instruments; arrow keys choose').focus();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await expect(grid.getByRole('row', { selected: true })).toContainText('Horns A');
  // An earlier run that broke off may have left its star.
  const unstar = page.getByRole('button', { name: 'Take the star away' });
  if (await unstar.isVisible()) await unstar.click();
  await page.getByRole('button', { name: 'Star this instrument' }).click();
  await page.getByRole('complementary').getByLabel('Verdict').selectOption('keep');
  await page.getByRole('button', { name: 'Save this sound' }).click();
  await page.getByRole('textbox', { name: 'Name' }).fill('Harbour horns');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText(/^Saved \d\d:\d\d/)).toBeVisible();

  await page.reload();
  await expect(page.getByRole('button', { name: 'Hear Harbour horns' })).toBeVisible();
  await page.getByRole('button', { name: 'starred', exact: true }).click();
  const horns = grid.getByRole('row', { name: /Horns A/ });
  await expect(horns.getByRole('gridcell', { name: 'keep' })).toBeVisible();
  await page.getByRole('button', { name: 'Forget Harbour horns' }).click();
  await expect(page.getByRole('button', { name: 'Hear Harbour horns' })).toBeHidden();
  // Every edit can be taken back.
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Hear Harbour horns' })).toBeVisible();
  await page.getByRole('button', { name: 'Forget Harbour horns' }).click();
  await grid.getByRole('button', { name: 'Horns A' }).click();
  await page.getByRole('complementary').getByLabel('Verdict').selectOption('');
  await page.getByRole('button', { name: 'Take the star away' }).click();
});

test('one technique is loaded alone; what the cue does not use is let go; what is switched off stays out', async ({
  page,
}) => {
  await enter(page);
  await shelf(page);
  const held = () => page.evaluate(() => window.farloMeasuring?.useInstruments.getState().heldBytes ?? 0);
  await page.getByPlaceholder('Find a sound').fill('violas large');
  await page.getByRole('button', { name: 'Violas', exact: true }).click();
  const before = await held();
  await page.getByRole('button', { name: 'Load tremolo' }).click();
  await expect(page.getByRole('button', { name: 'Unload tremolo' })).toBeVisible();
  await loaded(page);
  const one = await held();
  expect(one).toBeGreaterThan(before);
  expect(one - before).toBeLessThan(3e6);
  await page.getByRole('button', { name: 'Load all' }).click();
  await expect.poll(held).toBeGreaterThan(before + 40e6);
  await loaded(page);
  await page.getByRole('button', { name: /^Unload unused/ }).click();
  await expect(page.getByText(/^Unloaded: \d+ MB before, \d+ MB now\.$/)).toBeVisible();
  expect(await held()).toBeLessThan(before + 1);

  const on = page.getByRole('button', { name: 'Switch muted on' });
  if (await on.isVisible()) await on.click();
  await page.getByRole('button', { name: 'Switch muted off' }).click();
  await page.getByRole('button', { name: 'Load all' }).click();
  await expect(page.getByRole('button', { name: 'Unload with the wood' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Load muted' })).toBeHidden();
  await expect(page.getByRole('button', { name: 'Hear muted' })).toBeDisabled();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Unload muted' })).toBeVisible();
});

test('two instruments or libraries are compared fact by fact', async ({ page }) => {
  await enter(page);
  await shelf(page);
  await page.getByRole('button', { name: 'Compare two' }).click();
  await page.getByLabel('Left instrument').selectOption({ label: 'Violins I · Wrenlow Strings, large' });
  await page.getByLabel('Right instrument').selectOption({ label: 'Violins I · Wrenlow Strings, light' });
  await expect(page.getByRole('row', { name: /^Vibrato .*recorded, ridden/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /^Only here .*muted.* —$/ })).toBeVisible();
  await page.getByLabel('What is compared').selectOption('libraries');
  await page.getByLabel('Left library').selectOption({ label: 'Wrenlow Strings, large' });
  await page.getByLabel('Right library').selectOption({ label: 'Wrenlow Strings, light' });
  await expect(page.getByRole('row', { name: /^Edition full light/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /^Positions 5: .*1: tree/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /^Only here .*harmonics.* —$/ })).toBeVisible();
});
