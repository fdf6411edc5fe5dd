import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';

/** An empty Farlo of its own, started as a newcomer starts it. */
let farlo: ChildProcess;
let base = '';
const folder = mkdtempSync(join(tmpdir(), 'farlo-first-day-'));

const freePort = () =>
  new Promise<number>((resolve) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as AddressInfo;
      probe.close(() => resolve(port));
    });
  });

test.beforeAll(async () => {
  const [port, databasePort] = [await freePort(), await freePort()];
  base = `http://127.0.0.1:${port}`;
  farlo = spawn(process.execPath, ['scripts/start.mjs'], {
    env: {
      ...process.env,
      FARLO_PORT: String(port),
      FARLO_DB_PORT: String(databasePort),
      FARLO_DATA: join(folder, '.farlo'),
      FARLO_DEMO: 'off',
    },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((resolve, reject) => {
    farlo.stdout?.on('data', (text: Buffer) => text.includes('Farlo is at') && resolve());
    farlo.on('exit', (code) => reject(new Error(`the start ended with ${code}`)));
  });
});
test.afterAll(async () => {
  const ended = new Promise((resolve) => farlo.once('exit', resolve));
  // As a closed terminal does.
  farlo.kill('SIGHUP');
  await ended;
  rmSync(folder, { recursive: true, force: true });
});

const saved = (page: Page) => expect(page.getByRole('status').filter({ hasText: /^Saved/ })).toBeVisible();

test('the first day: found, invite, accept in a second browser, write together, lose the session, sign in, nothing lost', async ({
  browser,
}) => {
  const options = { baseURL: base };
  const [first, second] = [await browser.newContext(options), await browser.newContext(options)];
  const [ada, pim] = [await first.newPage(), await second.newPage()];

  await ada.goto('/');
  await expect(ada.getByRole('heading', { name: 'Found your studio' })).toBeVisible();
  await ada.getByRole('button', { name: 'Found the studio' }).click();
  await expect(ada.getByText('This is not an e-mail address.')).toBeVisible();
  await ada.getByLabel('Name of the studio').fill('Lamp House');
  await ada.getByLabel('Your name').fill('Ada Wick');
  await ada.getByLabel('E-mail address').fill('ada@wick.example');
  await ada.getByLabel('Password').fill('lamphouse2026');
  await ada.getByRole('button', { name: 'Found the studio' }).click();
  await expect(ada.getByText('This password would be guessed soon.')).toBeVisible();
  await ada.getByLabel('Password').fill('herring gull over slate');
  await ada.getByRole('button', { name: 'Found the studio' }).click();

  // Nothing is there yet, and the page says what to do first.
  await expect(ada.getByRole('heading', { name: 'No cue yet' })).toBeVisible();
  await ada.getByRole('button', { name: 'To the templates' }).click();
  await ada.getByRole('button', { name: 'New template' }).click();
  await ada.getByRole('textbox', { name: 'Name' }).fill('House template');
  await ada.getByRole('button', { name: 'Make the template' }).click();
  await expect(ada.getByRole('heading', { name: 'House template' })).toBeVisible();
  await ada.getByRole('button', { name: 'Add a track', exact: true }).click();
  await ada.getByLabel('Name of track 1').fill('Whistle');
  await saved(ada);
  await ada.getByRole('button', { name: 'New cue' }).click();
  await ada.getByRole('textbox', { name: 'Name' }).fill('First light');
  await ada.getByRole('button', { name: 'Make the cue' }).click();
  await expect(ada.getByRole('heading', { name: 'First light', level: 1 })).toBeVisible();

  await ada.getByRole('button', { name: /^Ada Wick/ }).click();
  await ada.getByRole('menuitem', { name: 'People and account' }).click();
  await ada.getByRole('button', { name: 'Make a link' }).click();
  const link = await ada.getByLabel('Link of the invitation').inputValue();
  expect(link).toMatch(new RegExp(`^${base}/join/[\\w-]{32}$`));

  await pim.goto(link);
  await expect(pim.getByRole('heading', { name: 'Join Lamp House' })).toBeVisible();
  await pim.getByLabel('Your name').fill('Pim Gull');
  await pim.getByLabel('E-mail address').fill('pim@gull.example');
  await pim.getByLabel('Password').fill('three ropes and a bell');
  await pim.getByRole('button', { name: 'Join the studio' }).click();
  await expect(pim.getByRole('heading', { name: 'First light', level: 1 })).toBeVisible();
  await expect(ada.getByRole('listitem').filter({ hasText: 'pim@gull.example' })).toBeVisible();
  await ada.getByRole('link', { name: 'Cue', exact: true }).click();
  await expect(ada.getByRole('group', { name: 'Also here' })).toContainText('Pim Gull is here');

  // Both write; the canvas takes notes by keys.
  const notes = (page: Page, count: number) =>
    expect(page.getByRole('application', { name: `Notes of Whistle: ${count}` })).toBeVisible();
  const write = async (page: Page, right: number) => {
    await page.getByRole('slider', { name: 'Playhead and loop' }).focus();
    await page.keyboard.press('Home');
    for (let i = 0; i < right; i++) await page.keyboard.press('ArrowRight');
    await page.getByRole('application', { name: /^Notes of Whistle/ }).focus();
    await page.keyboard.press('Insert');
  };
  await write(ada, 0);
  await notes(pim, 1);
  await write(pim, 2);
  await notes(ada, 2);

  // Pim's session is lost while he writes on.
  await second.clearCookies();
  await write(pim, 4);
  const dialog = pim.getByRole('dialog', { name: 'Sign in again' });
  await expect(dialog).toBeVisible();
  await write(ada, 6);
  await dialog.getByLabel('Password').fill('three ropes and a bell');
  await dialog.getByRole('button', { name: 'Sign in' }).click();
  await expect(dialog).toBeHidden();
  for (const page of [ada, pim]) await notes(page, 4);
  await saved(pim);
  await pim.reload();
  await notes(pim, 4);

  // The link was for one.
  await pim.goto(link);
  await expect(pim.getByRole('alert')).toContainText('This invitation was used');
  await first.close();
  await second.close();
});
