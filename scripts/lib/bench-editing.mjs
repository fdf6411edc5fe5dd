import { execFileSync } from 'node:child_process';

const STEPS = 80;

const inNode = (root, script, args) =>
  JSON.parse(
    execFileSync(process.execPath, ['--import', 'tsx', `${root}/bench/${script}`, ...args], {
      cwd: root,
      encoding: 'utf8',
    })
      .trim()
      .split('\n')
      .at(-1),
  );

/** Fifty browsers at one template, the median of three runs (see bench/sharing.ts); nothing may be lost in any. */
export function measureSharing(root, base) {
  const runs = Array.from({ length: 3 }, () => inNode(root, 'sharing.ts', [base]));
  const sum = (of) => runs.reduce((all, run) => all + run[of], 0);
  const p99 = runs.map((run) => run.p99).sort((a, b) => a - b)[1];
  return { p99, edits: sum('edits'), lost: sum('lost'), untold: sum('untold') };
}

/** A large import in pieces; see bench/large-part.ts. */
export const measureImport = (root, base, notes) => inNode(root, 'large-part.ts', [base, String(notes)]);

/** A place where a press chooses one note, looked for around the middle of the canvas. */
async function aNote(page, canvas, box) {
  for (let y = 0; y < 90; y += 3)
    for (let x = 0; x < 60; x += 4) {
      const place = { x: box.x + box.width / 3 + x, y: box.y + box.height / 2 + y };
      await page.mouse.click(place.x, place.y);
      if ((await canvas.getAttribute('aria-label')).includes(', 1 selected')) return place;
    }
  throw new Error('no note could be chosen');
}

/**
 * Script time a frame while a part of many notes is panned, zoomed and its notes are dragged, as the browser itself
 * counts it. @returns 95th percentiles in milliseconds
 */
export async function measureEditing(page, cueId) {
  await page.goto(`/cue/${cueId}`);
  const canvas = page.getByRole('application', { name: /^Notes of .*: 20000/ });
  await canvas.waitFor({ timeout: 60_000 });
  await page.waitForTimeout(6000);
  const cdp = await page.context().newCDPSession(page);
  await cdp.send('Performance.enable');
  const scriptSeconds = async () =>
    (await cdp.send('Performance.getMetrics')).metrics.find(({ name }) => name === 'ScriptDuration').value;
  const box = await canvas.boundingBox();
  const measure = async (step) => {
    const figures = [];
    for (let i = 0; i < STEPS; i++) {
      const before = await scriptSeconds();
      await step(i);
      // The frame in which the step is handled, and the one that shows it.
      await page.evaluate(
        () => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))),
      );
      figures.push(((await scriptSeconds()) - before) * 1000);
    }
    return figures.sort((a, b) => a - b)[Math.floor(STEPS * 0.95)];
  };
  const note = await aNote(page, canvas, box);
  await page.mouse.move(note.x, note.y);
  await page.mouse.down();
  const drag = await measure((i) => page.mouse.move(note.x + 12 + (i % 20) * 6, note.y + (i % 7) * 9));
  await page.mouse.up();
  const middle = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  await page.mouse.move(middle.x, middle.y);
  const pan = await measure(() => page.mouse.wheel(40, 0));
  await page.keyboard.down('Control');
  const zoom = await measure((i) => page.mouse.wheel(0, i % 2 === 0 ? 30 : -30));
  await page.keyboard.up('Control');
  return { pan, zoom, drag };
}
