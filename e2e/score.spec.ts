import { expect, test, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { writeMusicXml, type Score } from '#core/formats/index.ts';
import { draw, enter, loaded, newCue, zipOf } from './helpers.ts';

/** Scores: looked at beside the grid, brought in and delivered. */

const Q = 960;
const BAR = 4 * Q;

/** A score of two parts with a little of everything. */
const SCORE: Score = {
  title: 'The Gangway',
  tempos: [
    { tick: 0, bpm: 72, ramp: true },
    { tick: BAR, bpm: 96 },
  ],
  metres: [
    { tick: 0, numerator: 4, denominator: 4 },
    { tick: BAR, numerator: 3, denominator: 4 },
  ],
  keys: [{ tick: 0, fifths: -3 }],
  markers: [{ tick: BAR, text: 'the gangway' }],
  endTick: BAR + 3 * Q,
  parts: [
    {
      name: 'Violins I',
      articulation: 'long',
      part: {
        notes: [67, 70, 72, 75, 74, 72, 70].map((key, i) => ({
          id: `n${i}`,
          startTick: i * Q,
          endTick: (i + 1) * Q,
          key,
          velocity: 60 + 5 * i,
          syllable: i === 0 ? 'sea' : '',
        })),
        marks: [
          { id: 'm0', startTick: 0, endTick: 2 * Q, articulation: 'pizzicato' },
          { id: 'm1', startTick: 2 * Q, endTick: BAR, articulation: 'staccato' },
          { id: 'm2', startTick: BAR, endTick: BAR + 3 * Q, articulation: 'connected' },
        ],
        points: [
          { id: 'p0', controller: 1, tick: 0, value: 32 },
          { id: 'p1', controller: 1, tick: BAR, value: 96 },
        ],
      },
    },
    {
      name: 'Horn in F',
      articulation: 'long',
      transposition: -7,
      part: {
        notes: [{ id: 'h', startTick: 0, endTick: BAR, key: 48, velocity: 80 }],
        marks: [],
        points: [],
      },
    },
  ],
};

const take = async (page: Page, name: string, buffer: Buffer) => {
  await page
    .getByLabel('Bring in MIDI or MusicXML')
    .setInputFiles({ name, mimeType: 'application/octet-stream', buffer });
  await expect(page.getByRole('dialog')).toContainText('2 tempos, 2 metres, 1 key signature, 1 text');
};
const heads = (page: Page) => page.getByRole('region', { name: 'Score' }).locator('.vf-notehead');

/** The text of the MusicXML that Deliver writes. */
async function delivered(page: Page, path: string): Promise<string> {
  // A new cue's address may still be on its way.
  await expect(async () => {
    await page.getByRole('link', { name: 'Deliver' }).click();
    await expect(page.getByRole('heading', { name: 'Deliver', level: 1 })).toBeVisible({ timeout: 2000 });
  }).toPass();
  await page.getByRole('button', { name: 'MusicXML', exact: true }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Save' }).first().click(),
  ]);
  await download.saveAs(path);
  return readFileSync(path, 'utf8');
}

test('a score comes in, packed or not, with marks, curve, key and moving tempo, and goes out the same', async ({
  page,
}, info) => {
  await enter(page);
  const packed = await zipOf({
    'META-INF/container.xml':
      '<container><rootfiles><rootfile full-path="in/score.xml"/></rootfiles></container>',
    'in/score.xml': writeMusicXml(SCORE),
  });
  await take(page, 'The Gangway.mxl', packed);
  await expect(page.getByRole('row', { name: /Violins I/ })).toContainText('7 notes, 3 marks, 1 curve');
  // To a track that is there: what the other tests see of the template stays as it is.
  await page.getByLabel('Where Horn in F goes').selectOption({ label: 'Lamp bells' });
  await page.getByRole('button', { name: 'Take in' }).click();
  await expect(page.getByRole('heading', { name: 'The Gangway', level: 1 })).toBeVisible();
  await expect(page.getByRole('application', { name: 'Notes of Violins I: 7' })).toBeVisible();
  for (const name of ['pizzicato', 'staccato', 'connected'])
    await expect(page.getByRole('button', { name, exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Time', exact: true }).click();
  await expect(page.getByLabel('Key, major and minor')).toHaveValue('-3');
  await expect(page.getByRole('button', { name: /move evenly/ }).first()).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  const first = await delivered(page, info.outputPath('first.musicxml'));
  expect(first).toContain('<fifths>-3</fifths>');
  expect(first.match(/<part-name>/g)).toHaveLength(2);

  await page.getByRole('link', { name: 'Cue', exact: true }).click();
  await take(page, 'Again.musicxml', Buffer.from(first));
  await page.getByRole('button', { name: 'Take in' }).click();
  await expect(page.getByRole('heading', { name: 'Again', level: 1 })).toBeVisible();
  const second = await delivered(page, info.outputPath('second.musicxml'));
  expect(second.replace('Again', 'The Gangway')).toBe(first);

  await page.getByRole('link', { name: 'Cue', exact: true }).click();
  await page.getByLabel('Bring in MIDI or MusicXML').setInputFiles({
    name: 'half.musicxml',
    mimeType: 'text/xml',
    buffer: Buffer.from(first.slice(0, first.length / 2)),
  });
  await expect(
    page.getByRole('alert').filter({ hasText: /half\.musicxml, line \d+: .*Nothing was taken in/ }),
  ).toBeVisible();
});

test('the score beside the grid shows what is written, as players read it, and chooses notes', async ({
  page,
}) => {
  await enter(page);
  await newCue(page, 'Read');
  await draw(page, [
    [0, 1, 72],
    [1, 1, 76],
    [2, 2, 79],
  ]);
  await page.getByRole('button', { name: 'Score', exact: true }).click();
  await expect(heads(page)).toHaveCount(3);
  await heads(page).nth(1).click();
  await expect(page.getByRole('heading', { name: '1 note selected' })).toBeVisible();
  await expect(page.getByRole('textbox', { name: 'Key', exact: true })).toHaveValue('E5');
  await heads(page)
    .nth(2)
    .click({ modifiers: ['Shift'] });
  await expect(page.getByRole('heading', { name: '2 notes selected' })).toBeVisible();
  // What is sung stands under the notes, and what is taken back is gone.
  const syllables = page.getByRole('textbox', { name: 'Syllables' });
  await syllables.fill('lan- -tern sea');
  await syllables.press('Enter');
  await expect(page.getByText('There are 3 syllables for 2 notes.')).toBeVisible();
  await syllables.fill('lan- -tern');
  await syllables.press('Enter');
  await expect(page.getByRole('region', { name: 'Score' }).getByText('tern')).toBeVisible();
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(page.getByRole('region', { name: 'Score' }).getByText('tern')).toHaveCount(0);
  // A key signature spells the notes.
  const signs = page
    .getByRole('region', { name: 'Score' })
    .locator('.vf-keysignature path, .vf-modifiers path');
  const before = await signs.count();
  await page.getByRole('button', { name: 'Time', exact: true }).click();
  await page.getByRole('button', { name: 'Key at the bar of the playhead' }).click();
  await page.getByLabel('Key, major and minor').selectOption('4');
  await expect(async () => expect(await signs.count()).toBeGreaterThan(before)).toPass();
  await loaded(page);
});
