import { expect, test } from '@playwright/test';
import { XMLValidator } from 'fast-xml-parser';
import { readFileSync } from 'node:fs';
import { draw, drawCurve, enter, grid, newCue } from './helpers.ts';

test('notes are typed into place, drawn to the grid, closed up, cut and joined, and struck as drawn', async ({
  page,
}) => {
  await enter(page);
  await newCue(page, `Written ${Date.now() % 100_000}`);
  await draw(page, [
    [0, 1, 67],
    [1, 1, 69],
    [2, 1, 71],
  ]);
  const notes = page.getByRole('application', { name: /^Notes of/ });
  const begins = page.getByRole('textbox', { name: 'Beginning, bar and beat' });
  const lasts = page.getByRole('textbox', { name: 'Length in quarters' });
  const undo = page.getByRole('button', { name: 'Undo' });
  const choose = async (beat: number, key: number) => {
    const { x, y } = await grid(page);
    await page.mouse.click(x(beat * 960 + 300), y(key));
  };
  const type = async (field: typeof begins, text: string) => {
    await field.fill(text);
    await field.press('Enter');
  };

  // Typed a little late, too short, and a step higher; nonsense is refused where it is typed.
  await choose(1, 69);
  await expect(begins).toHaveValue('1.2');
  await type(begins, '1.9');
  await expect(page.getByRole('alert').filter({ hasText: 'A bar and a beat' })).toBeVisible();
  await begins.press('Escape');
  await type(begins, '1.2.70');
  await type(lasts, '0.4');
  await type(page.getByRole('textbox', { name: 'Key', exact: true }), 'C5');
  await expect(begins).toHaveValue('1.2.70');

  // Drawn to the grid it is where it was, as short as it has become; one step takes it back.
  await notes.press('r');
  await expect(begins).toHaveValue('1.2');
  await expect(lasts).toHaveValue('0.4');
  await undo.click();
  await expect(begins).toHaveValue('1.2.70');
  await page.getByText('How notes are drawn to the grid').click();
  await page.getByRole('checkbox', { name: 'their ends as well' }).check();
  await page.getByRole('button', { name: 'Draw to the grid' }).click();
  await expect(begins).toHaveValue('1.2');
  await expect(lasts).toHaveValue('0.5');

  // All of them: the gap is closed; what stands so already is told.
  await notes.press('Control+a');
  await notes.press('c');
  await choose(1, 72);
  await expect(lasts).toHaveValue('1');
  await notes.press('Control+a');
  await page.getByRole('button', { name: 'Close the gaps' }).click();
  await expect(page.getByText('Close the gaps: these notes stand so already.')).toBeVisible();

  // Cut at the playhead, and made one again.
  const line = page.getByRole('slider', { name: 'Playhead and loop' });
  await line.press('Home');
  await line.focus();
  for (let step = 0; step < 3; step++) await page.keyboard.press('ArrowRight');
  await notes.press('Control+a');
  await notes.press('x');
  await expect(page.getByText('4 notes selected')).toBeVisible();
  await notes.press('i');
  await expect(page.getByText('3 notes selected')).toBeVisible();

  // A typed place; where it is out of sight, the page turns to it.
  await notes.press('j');
  const going = page.getByRole('textbox', { name: 'Go to' });
  await type(going, '1:75');
  await expect(page.getByRole('alert').filter({ hasText: 'a time in minutes and seconds' })).toBeVisible();
  await type(going, '40.2');
  await expect(line).toHaveAttribute('aria-valuetext', /^bar 40, beat 2/);
  await page.getByRole('button', { name: 'Go to a bar or a time' }).click();
  // A beat is a second here.
  await type(going, '0:02');
  await expect(line).toHaveAttribute('aria-valuetext', /^bar 1, beat 3/);
  await notes.press('j');
  await type(going, '1');
  await expect(line).toHaveAttribute('aria-valuetext', /^bar 1, beat 1/);

  // Two bars put in before everything, refused where it is no number of bars, and taken out again.
  const more = page.getByRole('button', { name: 'More for this cue' });
  await more.click();
  await page.getByRole('menuitem', { name: 'Insert bars …' }).click();
  const bars = page.getByRole('textbox', { name: 'Bars' });
  await type(bars, 'some');
  await expect(page.getByRole('alert').filter({ hasText: 'A whole number from 1' })).toBeVisible();
  await type(bars, '2');
  await expect(bars).toBeHidden();
  await choose(2 * 4, 67);
  await expect(begins).toHaveValue('3.1');
  await more.click();
  await page.getByRole('menuitem', { name: 'Remove bars …' }).click();
  await type(bars, '2');
  await expect(begins).toHaveValue('1.1');
  await notes.press('Control+a');
  await expect(page.getByText('3 notes selected')).toBeVisible();

  // A crescendo over them, most of it late, which is all gone with one step back.
  await page.getByText('A curve over these notes').click();
  await type(page.getByRole('textbox', { name: 'Curve from' }), 'pp');
  await type(page.getByRole('textbox', { name: 'Curve to' }), 'loudly');
  await expect(page.getByRole('alert').filter({ hasText: 'pp, p, mp, mf, f or ff' })).toBeVisible();
  await type(page.getByRole('textbox', { name: 'Curve to' }), '120');
  await page.getByRole('combobox', { name: 'Shape of the curve' }).selectOption({ label: 'most of it late' });
  await page.getByRole('button', { name: 'Draw it' }).click();
  const dynamics = page.getByRole('application', { name: /^Dynamics curve/ });
  // pp is the middle of the lowest sixth of 127.
  await expect(dynamics).toHaveAccessibleName(/curve, ([5-9]|1\d) points\. At the playhead 11 of 127/);
  await undo.click();
  await expect(dynamics).toHaveAccessibleName(/curve, 0 points/);

  // By a rule: what begins on a beat.
  await notes.press('Escape');
  await page.getByRole('button', { name: 'Choose notes by a rule' }).click();
  await page.getByRole('menuitem', { name: 'Off the beat' }).click();
  await expect(page.getByText('No note is like that.')).toBeVisible();
  await page.getByRole('button', { name: 'Choose notes by a rule' }).click();
  await page.getByRole('menuitem', { name: 'On the beat' }).click();
  await expect(page.getByText('3 notes selected')).toBeVisible();

  // Struck as drawn across the lane, from soft to hard; the keys go on from there.
  const lane = page.getByRole('application', { name: /^Velocities of/ });
  const box = await lane.boundingBox();
  const { x } = await grid(page);
  if (!box) throw new Error('the velocities are not shown');
  await page.mouse.move(x(-100), box.y + box.height - 6);
  await page.mouse.down();
  await page.mouse.move(x(2 * 960 + 100), box.y + 6, { steps: 6 });
  await page.mouse.up();
  await expect(lane).toHaveAccessibleName(/3 selected: \d+ to 1[12]\d of 127\.$/);
  const drawn = (await lane.getAttribute('aria-label')) ?? '';
  const [low, high] = /(\d+) to (\d+) of/.exec(drawn)?.slice(1).map(Number) ?? [];
  expect(low).toBeLessThan(20);
  await lane.press('Shift+ArrowUp');
  await expect(lane).toHaveAccessibleName(new RegExp(`${low + 1} to ${Math.min(127, high + 1)} of`));

  await expect(page.getByText(/^Saved/)).toBeVisible();
  await page.reload();
  await expect(page.getByRole('application', { name: 'Notes of Violins I: 3' })).toBeVisible();
  await choose(1, 72);
  await expect(begins).toHaveValue('1.2');
  await expect(lasts).toHaveValue('1');
});

test('markers are set at the playhead, moved, renamed, gone to and removed', async ({ page }) => {
  await enter(page);
  await newCue(page, `Marked ${Date.now() % 100_000}`);
  const line = page.getByRole('slider', { name: 'Playhead and loop' });
  const at = (place: RegExp) => expect(line).toHaveAttribute('aria-valuetext', place);
  const name = page.getByRole('textbox', { name: 'Name', exact: true });
  for (let step = 0; step < 8; step++) await line.press('ArrowRight');
  await at(/^bar 2, beat 1/);
  await page.getByRole('button', { name: 'marker', exact: true }).click();
  await name.fill('The turn');
  await name.press('Enter');
  const marker = page.getByRole('group', { name: 'Markers' }).getByRole('button');
  await expect(marker).toHaveText('The turn');

  // By keys: a grid step later, another name.
  await marker.press('ArrowRight');
  await marker.press('F2');
  await name.fill('The lamp goes out');
  await name.press('Enter');
  await expect(marker).toHaveText('The lamp goes out');
  await line.press('Home');
  await at(/^bar 1, beat 1/);
  await marker.press('Enter');
  await at(/^bar 2, beat 1/);
  await expect(page.getByRole('button', { name: 'Go to a bar or a time' })).toContainText('2.1');

  // With the mouse: dragged by a bar, and a press goes there; its first letters do as well.
  const box = await marker.boundingBox();
  if (!box) throw new Error('the marker is not shown');
  await page.mouse.move(box.x + 8, box.y + 8);
  await page.mouse.down();
  await page.mouse.move(box.x + 8 + 3360 * 0.024, box.y + 8, { steps: 4 });
  await page.mouse.up();
  await marker.click();
  await at(/^bar 3, beat 1/);
  await line.press('Home');
  await page.keyboard.press('j');
  await page.getByRole('textbox', { name: 'Go to' }).fill('the la');
  await page.keyboard.press('Enter');
  await at(/^bar 3, beat 1/);

  await marker.press('Delete');
  await expect(marker).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(marker).toHaveText('The lamp goes out');
  await expect(page.getByText(/^Saved/)).toBeVisible();
  await page.reload();
  await expect(marker).toHaveText('The lamp goes out');
});

test('tempo and metre change over a cue, are typed, moved, tapped and taken out', async ({ page }) => {
  await enter(page);
  await newCue(page, `Timed ${Date.now() % 100_000}`);
  const place = page.getByRole('button', { name: 'Go to a bar or a time' });
  const goTo = async (text: string) => {
    await place.click();
    await page.getByRole('textbox', { name: 'Go to' }).fill(text);
    await page.keyboard.press('Enter');
  };
  const type = async (field: ReturnType<typeof page.getByRole>, text: string) => {
    await field.fill(text);
    await field.press('Enter');
  };
  await page.getByRole('button', { name: 'Time', exact: true }).click();
  const tempos = page.getByRole('list', { name: 'Changes of tempo' }).getByRole('listitem');
  const metres = page.getByRole('list', { name: 'Changes of metre' }).getByRole('listitem');

  // Two bars of four seconds, then one of two.
  await goTo('3.1');
  await page.getByRole('button', { name: 'Tempo at the playhead' }).click();
  await expect(tempos).toHaveCount(2);
  await type(tempos.nth(1).getByRole('textbox', { name: 'Quarters a minute' }), '120');
  await goTo('4.1');
  await expect(place).toHaveText('4.10:10.0');
  // Refused where it stands, and moved where it may.
  await type(tempos.nth(1).getByRole('textbox', { name: 'Bar and beat' }), '1.1');
  await expect(page.getByText('There is a change there already.')).toBeVisible();
  await type(tempos.nth(1).getByRole('textbox', { name: 'Bar and beat' }), '2.1');
  await expect(place).toHaveText('4.10:08.0');

  // From bar 4 on a bar has three quarters: bar 6 begins six of them later.
  await page.getByRole('button', { name: 'Metre at the bar of the playhead' }).click();
  await type(metres.last().getByRole('textbox', { name: 'Beats of a bar' }), '65');
  await expect(page.getByRole('alert').filter({ hasText: 'A whole number from 1 to 64' })).toBeVisible();
  await type(metres.last().getByRole('textbox', { name: 'Beats of a bar' }), '3');
  await goTo('6.1');
  await expect(place).toHaveText('6.10:11.0');

  // Tapped at about two a second.
  await goTo('1.1');
  const tap = page.getByRole('button', { name: /^Tap it/ });
  for (let beat = 0; beat < 6; beat++) {
    await tap.click();
    await page.waitForTimeout(450);
  }
  const tapped = Number(
    await tempos.first().getByRole('textbox', { name: 'Quarters a minute' }).inputValue(),
  );
  expect(tapped).toBeGreaterThan(60);
  expect(tapped).toBeLessThan(140);

  await tempos
    .nth(1)
    .getByRole('button', { name: /^Take the change/ })
    .click();
  await expect(tempos).toHaveCount(1);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(tempos).toHaveCount(2);
});

test('the tempo is drawn in a lane, moves as drawn, and is taken back as one step', async ({ page }) => {
  await enter(page);
  await newCue(page, `Drawn ${Date.now() % 100_000}`);
  await page.getByLabel('Show another lane').selectOption('tempo of the cue');
  const lane = page.getByRole('application', { name: /^Tempo curve/ });
  await expect(lane).toHaveAccessibleName(/^Tempo curve, 1 points. At the playhead 60 quarters a minute/);
  // From 60 at the beginning of bar 2 up by half the height of the lane two bars later.
  await drawCurve(page, 'Tempo', [
    [4, 25],
    [12, 90],
  ]);
  await expect(lane).toHaveAccessibleName(/^Tempo curve, [3-9] points/);
  await page.getByRole('button', { name: 'Time', exact: true }).click();
  const tempos = page.getByRole('list', { name: 'Changes of tempo' }).getByRole('listitem');
  await expect(tempos.first().getByRole('textbox', { name: 'Quarters a minute' })).toHaveValue('60');
  const last = Number(await tempos.last().getByRole('textbox', { name: 'Quarters a minute' }).inputValue());
  expect(last).toBeGreaterThan(100);
  expect(last).toBeLessThan(160);
  await expect(tempos.nth(1).getByRole('button', { name: /move evenly/ })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(tempos).toHaveCount(1);
  // By keyboard: a place at the playhead, up by a step.
  await lane.focus();
  await page.keyboard.press('ArrowUp');
  await expect(tempos.first().getByRole('textbox', { name: 'Quarters a minute' })).toHaveValue('65');
});

test('lanes are as high as they are drawn, keep room for the notes, and stand there again after a reload', async ({
  page,
}) => {
  await enter(page);
  await newCue(page, `High ${Date.now() % 100_000}`);
  await page.getByLabel('Show another lane').selectOption('tempo of the cue');
  const tempo = page.getByRole('application', { name: /^Tempo curve/ });
  const notes = page.getByRole('application', { name: /^Notes of/ });
  const heightOf = async (one: typeof tempo) => (await one.boundingBox())?.height ?? 0;
  const border = page.getByRole('separator', { name: 'Height of the lane of tempo' });
  await expect.poll(() => heightOf(tempo)).toBeGreaterThan(0);
  const [first, room] = [await heightOf(tempo), await heightOf(notes)];
  const dragBy = async (by: number) => {
    const box = await border.boundingBox();
    if (!box) throw new Error('no border');
    await page.mouse.move(box.x + 100, box.y + 3);
    await page.mouse.down();
    await page.mouse.move(box.x + 100, box.y + 3 - by, { steps: 4 });
    await page.mouse.up();
  };
  await dragBy(40);
  await expect.poll(() => heightOf(tempo)).toBeCloseTo(first + 40, 0);
  expect(await heightOf(notes)).toBeCloseTo(room - 40, 0);
  await border.press('ArrowUp');
  await expect.poll(() => heightOf(tempo)).toBeCloseTo(first + 48, 0);
  await page.reload();
  await expect.poll(() => heightOf(tempo)).toBeCloseTo(first + 48, 0);
  // However far it is drawn, notes can still be written.
  await dragBy(600);
  await expect.poll(() => heightOf(notes)).toBeGreaterThan(80);
  await border.press('Home');
  await expect.poll(() => heightOf(tempo)).toBeCloseTo(first, 0);
});

test('what of the cue is in view is seen, dragged, zoomed and gone to by its passages', async ({ page }) => {
  await enter(page);
  await newCue(page, `View ${Date.now() % 100_000}`);
  await draw(page, [
    [0, 1, 60],
    [4, 1, 64],
  ]);
  const bar = page.getByRole('scrollbar', { name: 'Part of the cue in view' });
  const inView = () => bar.getAttribute('aria-valuetext');
  await expect.poll(inView).toMatch(/^bar 1 to bar \d+$/);
  await page.getByRole('button', { name: 'See less, larger' }).click();
  await page.getByRole('button', { name: 'See less, larger' }).click();
  const larger = Number((await inView())?.split(' ').at(-1));
  const box = await bar.boundingBox();
  if (!box) throw new Error('no bar');
  // Dragged by its middle it goes on as it is; by its end more is seen.
  await bar.press('Home');
  await expect.poll(inView).toMatch(/^bar 1 to/);
  await bar.press('PageDown');
  await expect.poll(inView).not.toMatch(/^bar 1 to/);
  await page.mouse.click(box.x + 2, box.y + box.height / 2);
  await expect.poll(inView).toMatch(/^bar 1 to/);
  await page.getByRole('button', { name: 'See the whole cue' }).click();
  await expect.poll(async () => Number((await inView())?.split(' ').at(-1))).not.toBe(larger);
  const keys = page.getByRole('scrollbar', { name: 'Keys in view' });
  const before = Number(await keys.getAttribute('aria-valuenow'));
  await keys.press('ArrowDown');
  await expect(keys).toHaveAttribute('aria-valuenow', String(before - 1));
  // A marker begins a passage in the overview; pressed, it is gone to.
  await page.getByRole('slider', { name: 'Playhead and loop' }).press('ArrowRight');
  await page.getByRole('button', { name: 'marker', exact: true }).click();
  await page.getByRole('dialog').getByRole('textbox').fill('Lamps out');
  await page.keyboard.press('Enter');
  const passage = page.getByRole('group', { name: 'Passages' }).getByRole('button', { name: 'Lamps out' });
  const playhead = page.getByRole('slider', { name: 'Playhead and loop' });
  const placed = await playhead.getAttribute('aria-valuenow');
  await playhead.press('ArrowRight');
  await expect(playhead).not.toHaveAttribute('aria-valuenow', placed ?? '');
  await passage.click();
  await expect(playhead).toHaveAttribute('aria-valuenow', placed ?? '');
});

test('what lies within the loop is repeated and moved in all tracks, notes go by steps of the scale, and the cue goes out as a score', async ({
  page,
}, info) => {
  await enter(page);
  await newCue(page, `Spans ${Date.now() % 100_000}`);
  await draw(page, [
    [0, 1, 60],
    [1, 1, 64],
  ]);
  const keys = () =>
    page.evaluate(() =>
      (window.farloMeasuring?.shown('note') ?? []).map((one) => {
        const { startTick, key } = one as unknown as { startTick: number; key: number };
        return [startTick / 3840, key];
      }),
    );
  // The loop over bar 1.
  const line = page.getByRole('slider', { name: 'Playhead and loop' });
  await page.keyboard.press('Home');
  await line.focus();
  await line.press('l');
  const loopEnd = () =>
    page.evaluate(
      () =>
        (window.farloMeasuring?.shown('cue')[0] as unknown as { loopEndTick: number } | undefined)
          ?.loopEndTick ?? 0,
    );
  for (let i = 0; i < 16 && (await loopEnd()) !== 3840; i++)
    await line.press((await loopEnd()) < 3840 ? 'Shift+ArrowRight' : 'Shift+ArrowLeft');
  const more = async (action: string) => {
    await page.getByRole('button', { name: 'More for this cue' }).click();
    await page.getByRole('menuitem', { name: action }).click();
  };
  await more('Repeat the loop …');
  await page.getByRole('textbox', { name: 'Times' }).fill('2');
  await page.getByRole('button', { name: 'Repeat', exact: true }).click();
  expect(await keys()).toEqual([
    [0, 60],
    [0.25, 64],
    [1, 60],
    [1.25, 64],
    [2, 60],
    [2.25, 64],
  ]);
  await page.getByRole('button', { name: 'Go to a bar or a time' }).click();
  await page.getByRole('textbox', { name: 'Go to' }).fill('4.1');
  await page.keyboard.press('Enter');
  await more('Move the loop to the playhead');
  expect((await keys()).map(([start]) => start)).toEqual([1, 1.25, 2, 2.25, 3, 3.25]);

  // All of them a step up in G minor: C to D, E (beside it, a semitone over E flat) to F sharp.
  const notes = page.getByRole('application', { name: /^Notes of/ });
  await notes.focus();
  await notes.press('Control+a');
  await page.getByLabel('Root of the scale').selectOption('G');
  await page.getByLabel('Kind of scale').selectOption('minor');
  await page.getByRole('button', { name: 'A step of the scale up' }).click();
  expect((await keys()).map(([, key]) => key)).toEqual([62, 66, 62, 66, 62, 66]);
  await page.getByRole('button', { name: 'Undo' }).click();

  await page.getByRole('link', { name: 'Deliver' }).click();
  await page.getByRole('button', { name: 'MusicXML' }).click();
  const save = page.getByRole('link', { name: 'Save' }).first();
  const [download] = await Promise.all([page.waitForEvent('download'), save.click()]);
  expect(download.suggestedFilename()).toMatch(/\.musicxml$/);
  await download.saveAs(info.outputPath('cue.musicxml'));
  const xml = readFileSync(info.outputPath('cue.musicxml'), 'utf8');
  expect(XMLValidator.validate(xml)).toBe(true);
  expect(xml.match(/<step>/g)).toHaveLength(6);
  expect(xml.match(/<measure /g)?.length).toBeGreaterThanOrEqual(4);
});
