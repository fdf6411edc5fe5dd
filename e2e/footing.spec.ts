import { expect, test, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { draw, enter, grid, loaded, newCue } from './helpers.ts';

const saved = (page: Page) => expect(page.getByRole('status').filter({ hasText: /^Saved \d/ })).toBeVisible();
const notes = (page: Page, count: number) =>
  expect(page.getByRole('application', { name: `Notes of Violins I: ${count}` })).toBeVisible();
/** Lets every answer of the server take its time, so that what the page does meanwhile is seen. */
const slowly = (page: Page) =>
  page.route('**/api/**', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 2500));
    // The page may have gone elsewhere meanwhile.
    await route.continue().catch(() => undefined);
  });
const freshCue = async (page: Page, title: string) => {
  const name = `${title} ${Date.now() % 1_000_000}`;
  await newCue(page, name);
  await saved(page);
  return name;
};

test('two tabs share one stream: both save, load and follow each other', async ({ browser }) => {
  const context = await browser.newContext();
  const streams: string[] = [];
  context.on('request', (request) => {
    if (request.url().endsWith('/api/events')) streams.push(request.url());
  });
  const first = await context.newPage();
  await enter(first);
  await freshCue(first, 'Tabs');
  const address = first.url();
  const tabs = [first];
  for (let i = 0; i < 3; i++) {
    const tab = await context.newPage();
    await tab.goto(address);
    await notes(tab, 0);
    tabs.push(tab);
  }
  for (const [i, tab] of tabs.entries()) {
    await tab.bringToFront();
    await draw(tab, [[i, 1, 60 + i]]);
    await saved(tab);
  }
  for (const tab of tabs) await notes(tab, 4);
  expect(streams).toHaveLength(1);
  // The tab that listens goes; another takes its place, and nothing is missed.
  await first.close();
  await tabs[1].bringToFront();
  await expect.poll(() => streams.length).toBe(2);
  await draw(tabs[1], [[5, 1, 70]]);
  for (const tab of tabs.slice(1)) await notes(tab, 5);
  await context.close();
});

test('a session that ends with edits waiting: sign-in opens in place, and nothing is lost', async ({
  page,
  context,
}) => {
  await enter(page);
  await freshCue(page, 'Session');
  await draw(page, [[0, 1, 60]]);
  await saved(page);
  await context.clearCookies();
  await slowly(page);
  await draw(page, [
    [1, 1, 62],
    [2, 1, 64],
  ]);
  const dialog = page.getByRole('dialog', { name: 'Sign in again' });
  await expect(dialog).toBeVisible();
  await expect(dialog).toContainText('2 edits wait in this browser');
  // Somebody else does not send them.
  await expect(dialog.getByLabel('Address')).toHaveValue('ilse@saltglass.example');
  await dialog.getByLabel('Password').fill('not the password');
  await dialog.getByRole('button', { name: 'Sign in' }).click();
  await expect(dialog).toContainText('No one here has this address and password.');
  await dialog.getByLabel('Password').fill('lantern-and-tide');
  await dialog.getByRole('button', { name: 'Sign in' }).click();
  await expect(dialog).toBeHidden();
  await saved(page);
  await notes(page, 3);
  await page.reload();
  await notes(page, 3);
});

test('another person at the same browser does not send the first one’s edits; they wait for their own', async ({
  page,
  context,
}) => {
  await enter(page);
  await freshCue(page, 'Owners');
  const address = page.url();
  await context.clearCookies();
  await slowly(page);
  await draw(page, [[0, 1, 60]]);
  const dialog = page.getByRole('dialog', { name: 'Sign in again' });
  await dialog.getByLabel('Address').fill('tomas@saltglass.example');
  await dialog.getByLabel('Password').fill('ferry-at-nine');
  await dialog.getByRole('button', { name: 'Sign in' }).click();
  await page.unrouteAll({ behavior: 'ignoreErrors' });
  await expect(page.getByRole('button', { name: /^Tomas Oake/ })).toBeVisible();
  await page.goto(address);
  await notes(page, 0);
  await page.getByRole('button', { name: /^Tomas Oake/ }).click();
  await page.getByRole('menuitem', { name: 'Sign out' }).click();
  // A page that is left too early takes its request along.
  await expect(page.getByRole('heading', { name: 'Sign in', exact: true })).toBeVisible();
  await enter(page);
  await page.goto(address);
  await notes(page, 1);
  await saved(page);
});

test('a colleague’s change during my unsent edit is not overwritten, and both are seen', async ({
  browser,
}) => {
  const [first, second] = await Promise.all([browser.newContext(), browser.newContext()]);
  const [mine, theirs] = [await first.newPage(), await second.newPage()];
  await enter(mine);
  await freshCue(mine, 'Meanwhile');
  await draw(mine, [[0, 1, 67]]);
  await saved(mine);
  await enter(theirs, 'Tomas Oake');
  await theirs.goto(mine.url());
  await notes(theirs, 1);
  await expect(mine.getByRole('group', { name: 'Also here' })).toContainText('Tomas Oake is here');
  // My edits stay in this browser; what the colleague does is heard all the same.
  await mine.route('**/patches', (route) => route.abort());
  const nudge = async (page: Page, key: string) => {
    const { canvas, x, y } = await grid(page);
    await page.mouse.click(x(300), y(67));
    await canvas.focus();
    await page.keyboard.press(key);
  };
  await nudge(mine, 'ArrowUp');
  await draw(mine, [[4, 1, 72]]);
  await nudge(theirs, 'ArrowDown');
  await draw(theirs, [[2, 1, 71]]);
  await saved(theirs);
  await expect(mine.getByText(/A colleague changed the same note meanwhile/)).toBeVisible();
  await mine.unroute('**/patches');
  await saved(mine);
  for (const page of [mine, theirs]) await notes(page, 3);
  // Undo takes back my own note only.
  await mine.keyboard.press('Control+z');
  for (const page of [mine, theirs]) await notes(page, 2);
  await first.close();
  await second.close();
});

test('offline and back: edits are kept, told, sent, and survive a reload in between', async ({
  page,
  context,
}) => {
  await enter(page);
  await freshCue(page, 'Offline');
  const address = page.url();
  await context.setOffline(true);
  await draw(page, [[0, 1, 60]]);
  await expect(page.getByText('The connection is gone.')).toBeVisible();
  await page.getByRole('button', { name: 'Kept here' }).click();
  await expect(page.getByText('the server does not answer; one edit kept here until it does')).toBeVisible();
  await page.keyboard.press('Escape');
  await context.setOffline(false);
  await page.goto(address);
  await notes(page, 1);
  await saved(page);
});

test('a server that is away for a minute: edits go on, and all arrive when it is back', async ({
  page,
  context,
}) => {
  await enter(page);
  await freshCue(page, 'Away');
  await context.setOffline(true);
  const start = Date.now();
  const edits = 24;
  for (let i = 0; i < edits; i++) {
    await draw(page, [[i % 12, 0.5, 60 + Math.floor(i / 12) * 7]]);
    await page.waitForTimeout(Math.max(0, start + ((i + 1) * 60_000) / edits - Date.now()));
  }
  await expect(page.getByRole('button', { name: 'Kept here' })).toBeVisible();
  await notes(page, edits);
  await context.setOffline(false);
  // By itself: nobody presses anything.
  await saved(page);
  await page.reload();
  await notes(page, edits);
});

test('an exported instrument is written to disk although the data folder begins with a dot', async ({
  page,
}, info) => {
  await enter(page);
  await page.getByRole('link', { name: 'Shelf' }).click();
  await page.getByRole('searchbox', { name: 'Find a sound' }).fill('lamp bells');
  await page
    .getByRole('row', { name: /Lamp bells/ })
    .first()
    .click();
  await expect(page).toHaveURL(/\/shelf\/[0-9a-f-]{36}$/);
  await expect(page).toHaveTitle('Shelf · Lamp bells · Farlo');
  const [download] = await Promise.all([
    page.waitForEvent('download', { timeout: 60_000 }),
    page.getByRole('button', { name: /Take along as SFZ/ }).click(),
  ]);
  const path = info.outputPath('bells.zip');
  await download.saveAs(path);
  const text = readFileSync(path).toString('latin1');
  expect(text.slice(0, 2)).toBe('PK');
  expect(text).toContain('// Library: Lamp Room Bells');
  await page.goBack();
  await expect(page).toHaveURL(/\/shelf|\/cue/);
});

for (const [name, viewport] of [
  ['a small window', { width: 1024, height: 700 }],
  ['twice the size of a 1280×800 window', { width: 640, height: 400 }],
] as const)
  test(`everything can be reached in ${name}`, async ({ page }) => {
    await page.setViewportSize(viewport);
    await enter(page);
    for (const view of ['Shelf', 'Listen', 'Template', 'Cue', 'Deliver']) {
      await page.getByRole('link', { name: view, exact: true }).click();
      await expect(page).toHaveTitle(view === 'Cue' ? /Violins I/ : new RegExp(`^${view}`));
      await expect(page.getByRole('heading', { level: 1 }).first()).toBeVisible();
      const report = await page.evaluate(() => {
        /** Whether scrolling can bring an element into the window. */
        const reachable = (element: Element): boolean => {
          element.scrollIntoView({ block: 'nearest', inline: 'nearest' });
          const box = element.getBoundingClientRect();
          return (
            box.left >= -1 && box.top >= -1 && box.right <= innerWidth + 1 && box.bottom <= innerHeight + 1
          );
        };
        const controls = [
          ...document.querySelectorAll(
            'button, a[href], select, input:not([type="file"]):not(.sr-only), [role="slider"]',
          ),
        ].filter(
          (element) =>
            element.checkVisibility({ contentVisibilityAuto: true, visibilityProperty: true }) &&
            !element.closest('[aria-hidden="true"]') &&
            !element.matches('.sr-only, [href="#main"]'),
        );
        return {
          scrolls:
            document.documentElement.scrollWidth > innerWidth ||
            document.documentElement.scrollHeight > innerHeight,
          lost: controls
            .filter(
              (one) =>
                !reachable(one) &&
                one.getBoundingClientRect().width < innerWidth &&
                one.getBoundingClientRect().height < innerHeight,
            )
            .map((one) => (one.getAttribute('aria-label') ?? one.textContent ?? one.tagName).slice(0, 40)),
        };
      });
      expect([view, report.scrolls, report.lost]).toEqual([view, false, []]);
    }
  });

test('tracks are named, ordered, duplicated and deleted by keys, and what I hear alone is mine', async ({
  browser,
}) => {
  const [first, second] = await Promise.all([browser.newContext(), browser.newContext()]);
  const [mine, theirs] = [await first.newPage(), await second.newPage()];
  await enter(mine);
  await enter(theirs, 'Tomas Oake');
  const list = (page: Page) => page.getByRole('list', { name: 'Tracks' });
  const names = (page: Page) => list(page).locator('[data-track]').allTextContents();
  await list(mine).locator('[data-track]').first().focus();
  // The list is one tab stop.
  expect(await list(mine).locator('[data-track][tabindex="0"]').count()).toBe(1);
  await mine.keyboard.press('ArrowDown');
  await mine.keyboard.press('Control+d');
  await expect.poll(() => names(mine)).toEqual(['StViolins I', 'PcLamp bells', 'PcLamp bells copy']);
  await mine.keyboard.press('F2');
  await mine.getByRole('textbox', { name: 'Name' }).fill('Far bells');
  await mine.keyboard.press('Enter');
  await expect.poll(() => names(theirs)).toEqual(['StViolins I', 'PcLamp bells', 'PcFar bells']);
  await list(mine).locator('[data-track]').last().focus();
  await mine.keyboard.press('Alt+ArrowUp');
  await mine.keyboard.press('Alt+ArrowUp');
  await expect.poll(() => names(theirs)).toEqual(['PcFar bells', 'StViolins I', 'PcLamp bells']);
  await mine.keyboard.press('s');
  await expect(mine.getByRole('button', { name: 'Hear Far bells alone' })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await expect(theirs.getByRole('button', { name: 'Hear Far bells alone' })).toHaveAttribute(
    'aria-pressed',
    'false',
  );
  await mine.keyboard.press('s');
  await mine.keyboard.press('Delete');
  await expect.poll(() => names(theirs)).toEqual(['StViolins I', 'PcLamp bells']);
  // The history knows, and leads back.
  await mine.getByRole('link', { name: 'Template', exact: true }).click();
  const history = mine.getByRole('list', { name: 'History, newest first' });
  await expect(history.getByRole('listitem').first()).toContainText('Delete the track');
  await expect(history.getByRole('listitem').first()).toContainText('Ilse Marrow');
  await history.getByRole('listitem').nth(1).getByRole('button', { name: 'Back to here' }).click();
  await mine.getByRole('dialog').getByRole('button', { name: 'Back to here' }).click();
  await expect.poll(() => names(theirs)).toEqual(['PcFar bells', 'StViolins I', 'PcLamp bells']);
  await mine.getByRole('button', { name: 'More for Far bells' }).click();
  await mine.getByRole('menuitem', { name: /^Delete/ }).click();
  await expect.poll(() => names(theirs)).toEqual(['StViolins I', 'PcLamp bells']);
  await first.close();
  await second.close();
});

test('a cue is made, found by a colleague at once, renamed, duplicated and deleted; links lead to it', async ({
  browser,
}) => {
  const [first, second] = await Promise.all([browser.newContext(), browser.newContext()]);
  const [mine, theirs] = [await first.newPage(), await second.newPage()];
  await enter(theirs, 'Tomas Oake');
  await enter(mine);
  const name = await freshCue(mine, 'Link');
  await expect(mine).toHaveTitle(`${name} · Violins I · Farlo`);
  await expect(mine).toHaveURL(/\/cue\/[0-9a-f-]{36}\/[0-9a-f-]{36}$/);
  await expect(theirs.getByLabel('Cue', { exact: true }).locator('option', { hasText: name })).toHaveCount(1);
  await theirs.goto(mine.url());
  await expect(theirs.getByRole('heading', { name, level: 1 })).toBeVisible();
  await mine.getByRole('button', { name: 'More for this cue' }).click();
  await mine.getByRole('menuitem', { name: 'Rename …' }).click();
  await mine.getByRole('textbox', { name: 'Name' }).fill(`${name} anew`);
  await mine.keyboard.press('Enter');
  await expect(theirs.getByRole('heading', { name: `${name} anew`, level: 1 })).toBeVisible();
  await mine.getByRole('button', { name: 'More for this cue' }).click();
  await mine.getByRole('menuitem', { name: 'Duplicate …' }).click();
  await mine.getByRole('button', { name: 'Duplicate', exact: true }).click();
  await expect(mine.getByRole('heading', { name: `${name} anew copy`, level: 1 })).toBeVisible();
  await mine.goBack();
  await expect(mine.getByRole('heading', { name: `${name} anew`, level: 1, exact: true })).toBeVisible();
  await mine.getByRole('button', { name: 'More for this cue' }).click();
  await mine.getByRole('menuitem', { name: 'Delete …' }).click();
  await mine.getByRole('dialog').getByRole('button', { name: 'Delete' }).click();
  await expect(theirs.getByText('The cue that was open has been deleted.')).toBeVisible();
  await mine.goto('/cue/11111111-1111-4111-8111-111111111111');
  await expect(mine.getByRole('alert')).toContainText('This cue is not here any more');
  await first.close();
  await second.close();
});

test('the space bar presses a focused button, keys are listed, and single letters can be switched off', async ({
  page,
}) => {
  await enter(page);
  await page.getByRole('button', { name: 'Loop', exact: true }).focus();
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Loop', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await page.keyboard.press('?');
  const dialog = page.getByRole('dialog', { name: 'Keys' });
  await expect(dialog).toContainText('loop on or off');
  await dialog.getByRole('checkbox').uncheck();
  await page.keyboard.press('Escape');
  await page.locator('#main').focus();
  await page.keyboard.press('/');
  await expect(page.getByRole('button', { name: 'Loop', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible();
  await page.keyboard.press('Space');
  // The skip link is the first stop and leads past the rail.
  await page.reload();
  await loaded(page);
  await page.keyboard.press('Tab');
  await expect(page.getByRole('link', { name: 'Skip to the view' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.locator('#main')).toBeFocused();
});

test('panes are resized by keys and stay so', async ({ page }) => {
  await enter(page);
  const side = page.getByRole('complementary', { name: 'Track' });
  const before = (await side.boundingBox())?.width ?? 0;
  const border = page.getByRole('separator', { name: 'Border of the side pane' });
  await border.focus();
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowLeft');
  const wider = (await side.boundingBox())?.width ?? 0;
  expect(wider).toBeGreaterThan(before + 20);
  await page.reload();
  await loaded(page);
  expect(Math.abs(((await side.boundingBox())?.width ?? 0) - wider)).toBeLessThan(3);
});
