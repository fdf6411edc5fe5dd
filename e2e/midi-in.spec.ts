import { expect, test } from '@playwright/test';
import { writeSmf } from '#core/formats/index.ts';
import { enter, loaded } from './helpers.ts';

test('a MIDI file becomes a cue: tempo, curves, keyswitches as marks', async ({ page }) => {
  await enter(page);
  const n = (startTick: number, key: number, length = 900) => ({
    startTick,
    endTick: startTick + length,
    key,
    velocity: 90,
  });
  const bytes = writeSmf({
    tempos: [
      { tick: 0, bpm: 72 },
      { tick: 3840, bpm: 96 },
    ],
    metres: [{ tick: 0, numerator: 3, denominator: 4 }],
    keys: [],
    texts: [{ tick: 0, text: 'the gangway' }],
    tracks: [
      {
        name: 'Violins I',
        channel: 0,
        notes: [n(0, 27, 100), n(20, 67), n(960, 71), n(1900, 26, 50), n(1920, 74, 300)],
        controls: [
          { tick: 0, controller: 1, value: 30 },
          { tick: 1900, controller: 1, value: 110 },
        ],
        programs: [],
        texts: [],
      },
    ],
  });
  await page
    .getByLabel('Bring in MIDI')
    .setInputFiles({ name: 'The Gangway.mid', mimeType: 'audio/midi', buffer: Buffer.from(bytes) });
  await expect(page.getByRole('dialog')).toContainText('2 tempos, 1 metre, 1 text');
  await page.getByRole('button', { name: 'Take in' }).click();
  await expect(page.getByRole('heading', { name: 'The Gangway', level: 1 })).toBeVisible();
  await expect(page.getByRole('application', { name: 'Notes of Violins I: 3' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'pizzicato', exact: true })).toBeVisible();
  await expect(page.getByRole('textbox', { name: 'Tempo' })).toHaveValue('72');
  await expect(page.getByLabel('Metre')).toHaveValue('3/4');

  await page.getByLabel('Bring in MIDI').setInputFiles({
    name: 'half.mid',
    mimeType: 'audio/midi',
    buffer: Buffer.from(bytes.subarray(0, bytes.length - 12)),
  });
  await expect(
    page.getByRole('alert').filter({ hasText: /half\.mid, byte \d+: .*Nothing was taken in/ }),
  ).toBeVisible();
});

test('twenty tracks come in at once: by name where they are there, else with new tracks and instruments that suit', async ({
  page,
}) => {
  await enter(page);
  const names = [
    ['Violin 1', 72],
    ['Violin 2', 67],
    ['Vla', 60],
    ['Celli', 48],
    ['Double basses', 36],
    ['Fl. 1', 79],
    ['Flute 2', 76],
    ['Oboe', 74],
    ['Clarinet', 70],
    ['Bsn', 46],
    ['Horn 1', 58],
    ['Horn 2', 55],
    ['Tpt', 65],
    ['Trombones', 50],
    ['Tuba', 34],
    ['Timp', 41],
    ['Harp', 64],
    ['Piano', 62],
    ['Women', 69],
    ['Odd box', 61],
  ] as const;
  const note = (key: number, at: number) => ({ startTick: at, endTick: at + 900, key, velocity: 80 });
  const bytes = writeSmf({
    tempos: [{ tick: 0, bpm: 96 }],
    metres: [{ tick: 0, numerator: 4, denominator: 4 }],
    keys: [],
    texts: [],
    tracks: names.map(([name, key], i) => ({
      name,
      channel: i % 9,
      notes: [0, 960, 1920, 2880].map((at) => note(key, at)),
      controls: [],
      programs: [],
      texts: [],
    })),
  });
  // One action brings the file, one takes it in.
  await page
    .getByLabel('Bring in MIDI')
    .setInputFiles({ name: 'Twenty.mid', mimeType: 'audio/midi', buffer: Buffer.from(bytes) });
  const dialog = page.getByRole('dialog');
  const goes = async (name: string) =>
    (await dialog
      .getByLabel(`Where ${name} goes`, { exact: true })
      .locator('option:checked')
      .textContent()) ?? '';
  await expect(dialog).toContainText(/gets 1\d new tracks/);
  expect(await goes('Violin 1')).toBe('Violins I');
  expect(await goes('Violin 2')).toMatch(/^new: Violins II /);
  expect(await goes('Celli')).toMatch(/^new: .*[Cc]ello/);
  expect(await goes('Timp')).toMatch(/^new: Timpani/);
  expect(await goes('Tpt')).toMatch(/^new: .*[Tt]rumpet/);
  expect(await goes('Odd box')).toBe('a new track, no instrument yet');
  await page.getByRole('button', { name: 'Take in' }).click();
  await expect(page.getByRole('heading', { name: 'Twenty', level: 1 })).toBeVisible();
  await loaded(page);
  const notes = await page.evaluate(() => window.farloMeasuring?.shown('note').length);
  expect(notes).toBe(80);
  // Their tracks carry the file's names, and sound.
  const list = page.getByRole('list', { name: 'Tracks' });
  await expect(list.getByText('Double basses')).toBeVisible();
  const asked = await page.evaluate(() => window.farloMeasuring?.whatIsMissing().failed.length);
  expect(asked).toBe(0);
  // Two steps take all of it back, tracks and music.
  const undo = page.getByRole('button', { name: 'Undo' });
  await undo.click();
  await undo.click();
  await expect(list.getByText('Double basses')).toHaveCount(0);
  expect(await page.evaluate(() => window.farloMeasuring?.shown('note').length)).toBe(0);
});
