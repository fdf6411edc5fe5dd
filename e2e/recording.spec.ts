import { expect, test, type Page } from '@playwright/test';
import { bounceAndRead, enter, newCue, PRE_ROLL } from './helpers.ts';

// The ear below is a module of its own in the page.
test.use({ bypassCSP: true });

declare global {
  interface Window {
    ear?: { onsets: number[]; stamps: { context: number; page: number }[] };
  }
}

/**
 * An ear at the page's output: when sound begins after silence, by the clock of the audio, and how that clock and the page's go
 * together. It knows nothing of Farlo.
 */
async function listen(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const module = `registerProcessor('ear', class extends AudioWorkletProcessor {
      constructor() { super(); this.quiet = 0; }
      process([[channel]]) {
        (channel ?? []).forEach((value, i) => {
          if (Math.abs(value) < 0.001) { this.quiet++; return; }
          if (this.quiet > 4800) this.port.postMessage((currentFrame + i) / sampleRate);
          this.quiet = 0;
        });
        return true;
      }
    })`;
    const connect = AudioNode.prototype.connect as (this: AudioNode, to: AudioNode) => AudioNode;
    const hear = async (node: AudioNode, context: AudioContext) => {
      const ear: NonNullable<Window['ear']> = { onsets: [], stamps: [] };
      window.ear = ear;
      await context.audioWorklet.addModule(
        URL.createObjectURL(new Blob([module], { type: 'text/javascript' })),
      );
      const worklet = new AudioWorkletNode(context, 'ear');
      worklet.port.onmessage = ({ data }) => ear.onsets.push(Number(data));
      connect.call(node, worklet);
      setInterval(() => {
        const { contextTime = 0, performanceTime = 0 } = context.getOutputTimestamp();
        ear.stamps.push({ context: contextTime, page: performanceTime });
      }, 20);
    };
    AudioNode.prototype.connect = function (this: AudioNode, to: AudioNode) {
      const out = connect.call(this, to);
      if (to instanceof AudioDestinationNode && !window.ear) void hear(this, to.context as AudioContext);
      return out;
    } as typeof AudioNode.prototype.connect;
  });
}

/** What the page shows of a kind of record in the open cue. */
const shown = <T>(page: Page, kind: 'note' | 'point' | 'mark' | 'cue') =>
  page.evaluate((asked) => (window.farloMeasuring?.shown(asked) ?? []) as unknown as T[], kind);
interface Shown {
  startTick: number;
  endTick: number;
  key: number;
  controller: number;
  tick: number;
  value: number;
  articulation: string;
}

const transport = (page: Page) => page.getByRole('group', { name: 'Transport' });
const record = (page: Page) => transport(page).getByRole('button', { name: 'Record' });
const stop = (page: Page) => transport(page).getByRole('button', { name: 'Stop' }).click();
const setTempo = async (page: Page, bpm: number) => {
  await page.getByRole('textbox', { name: 'Tempo' }).fill(String(bpm));
  await page.keyboard.press('Enter');
};
/** Sends what the stand-in keyboard would, `seconds` after one another, from now on. @returns when each was sent, seconds */
const play = (page: Page, messages: readonly (readonly [number, number, number, number])[]) =>
  page.evaluate(async (list) => {
    const begin = performance.now();
    const sent: number[] = [];
    for (const [seconds, status, data1, data2] of list) {
      while (performance.now() < begin + seconds * 1000)
        await new Promise((resolve) => setTimeout(resolve, 1));
      sent.push(performance.now() / 1000);
      window.farloMeasuring?.send([status, data1, data2]);
    }
    return sent;
  }, messages);
const keys = (list: readonly number[], every: number) =>
  list.flatMap((key, i): [number, number, number, number][] => [
    [i * every, 0x90, key, 90],
    [(i + 0.6) * every, 0x80, key, 0],
  ]);

test('sixteen bars are recorded over a click, land where they were played, and are ridden afterwards', async ({
  page,
}) => {
  await listen(page);
  await enter(page);
  await newCue(page, `Recorded ${Date.now() % 100_000}`);
  await setTempo(page, 200);
  // The sound is woken before, so that the ear hears the first click.
  await transport(page).getByRole('button', { name: 'Play' }).click();
  await page.waitForFunction(() => (window.ear?.stamps.length ?? 0) > 5);
  await stop(page);
  await page.evaluate(() => window.ear?.onsets.splice(0));
  await record(page).click();
  // A bar of clicks: a quarter is 0.3 s.
  const beat = 0.3;
  await page.waitForFunction(() => (window.ear?.onsets.length ?? 0) >= 4);
  // A robot hears them, and plays eighths and quarters to what it has heard, some on the beat, some beside.
  const played = await page.evaluate(async (every) => {
    const ear = window.ear;
    if (!ear) throw new Error('nothing was heard');
    const middle = (list: number[]) => [...list].sort((a, b) => a - b)[list.length >> 1];
    const first = middle(ear.onsets.slice(0, 4).map((onset, i) => onset - i * every));
    const apart = ({ context, page }: { context: number; page: number }) => page - context * 1000;
    /** Beats since the first click at a time of the page, by what was told around it. */
    const beatAt = (atMs: number, stamps = ear.stamps.slice(-5)) =>
      ((atMs - middle(stamps.map(apart))) / 1000 - first) / every;
    const struck: { at: number; key: number }[] = [];
    let next = Math.ceil(beatAt(performance.now()) + 0.5);
    const until = async (beat: number) => {
      while (beatAt(performance.now()) < beat) await new Promise((resolve) => setTimeout(resolve, 0));
    };
    while (next < 4 + 64) {
      await until(next);
      const key = 60 + (Math.floor(next * 2) % 12);
      struck.push({ at: performance.now(), key });
      window.farloMeasuring?.send([0x90, key, 40 + (Math.floor(next * 7) % 80)]);
      await until(next + 0.4);
      window.farloMeasuring?.send([0x80, key, 0]);
      next += struck.length % 5 === 0 ? 1.07 : struck.length % 3 === 0 ? 0.93 : 1;
    }
    return struck.map(({ at, key }) => {
      const around = ear.stamps.filter(({ page }) => Math.abs(page - at) < 150);
      const gaps = around.map(apart);
      // Where a busy machine has let the sound stall, nobody can say what was heard.
      return { beat: beatAt(at, around), key, steady: Math.max(...gaps) - Math.min(...gaps) < 1 };
    });
  }, beat);
  await stop(page);
  const notes = await shown<Shown>(page, 'note');
  const expected = played.filter((one) => one.beat >= 4);
  expect(expected.length).toBeGreaterThan(50);
  expect(notes.map(({ key }) => key)).toEqual(expected.map(({ key }) => key));
  const late = notes.flatMap(({ startTick }, i) =>
    expected[i].steady ? Math.abs(startTick / 960 - (expected[i].beat - 4)) * beat : [],
  );
  expect(late.length).toBeGreaterThan(8);
  expect(Math.max(...late)).toBeLessThan(0.003);
  // The cue has become as long as what was played.
  expect((await shown<Shown>(page, 'cue'))[0].endTick).toBeGreaterThanOrEqual(15 * 3840);

  // A pass with the fader over the notes that are there: they stay, and a curve comes.
  await page.getByRole('button', { name: 'Recording', exact: true }).click();
  await page.getByLabel('Count-in').selectOption('none');
  await record(page).click();
  await expect(transport(page).getByRole('button', { name: 'Stop' })).toBeVisible();
  await page.waitForTimeout(600);
  const rode = await play(
    page,
    Array.from({ length: 40 }, (_, i) => [i * 0.05, 0xb0, 1, 30 + 2 * i] as const),
  );
  await page.waitForTimeout(300);
  await stop(page);
  const ridden = (await shown<Shown>(page, 'point')).filter(({ controller }) => controller === 1);
  // An even ride is hardly more than a line.
  expect([ridden[0].value, ridden.at(-1)?.value]).toEqual([30, 108]);
  expect(ridden.length).toBeLessThan(16);
  expect(((ridden.at(-1)?.tick ?? 0) - ridden[0].tick) / 960).toBeCloseTo((rode[39] - rode[0]) / beat, 0);
  expect(await shown<Shown>(page, 'note')).toHaveLength(notes.length);

  // Drawn to the grid; then everything is taken back, made again, and there after a reload.
  const canvas = page.getByRole('application', { name: /^Notes of/ });
  await canvas.focus();
  await canvas.press('Control+a');
  await canvas.press('r');
  const drawn = await shown<Shown>(page, 'note');
  expect(drawn.every(({ startTick }) => startTick % 480 === 0)).toBe(true);
  const undo = page.getByRole('button', { name: 'Undo' });
  for (let step = 0; step < 3; step++) await undo.click();
  expect([await shown(page, 'note'), await shown(page, 'point')]).toEqual([[], []]);
  for (let step = 0; step < 2; step++) await page.getByRole('button', { name: 'Redo' }).click();
  await expect(page.getByRole('status').filter({ hasText: /^Saved \d/ })).toBeVisible();
  await page.reload();
  await expect(page.getByRole('heading', { name: 'Positions' })).toBeVisible();
  await expect
    .poll(async () => (await shown<Shown>(page, 'note')).map(({ startTick, key }) => [startTick, key]))
    .toEqual(notes.map(({ startTick, key }) => [startTick, key]));
});

test('a page that goes in the middle of a take, without a server, loses nothing that was played', async ({
  page,
  context,
}) => {
  await enter(page);
  await newCue(page, `Broken off ${Date.now() % 100_000}`);
  await page.getByRole('button', { name: 'Recording', exact: true }).click();
  await page.getByLabel('Count-in').selectOption('none');
  await record(page).click();
  await expect(transport(page).getByRole('button', { name: 'Stop' })).toBeVisible();
  await page.waitForTimeout(500);
  // The server goes in the middle.
  const sent = await play(page, keys([60, 62], 0.4));
  await context.setOffline(true);
  await play(page, keys([64, 65], 0.4));
  await play(page, [[0, 0x90, 67, 99]]);
  await expect(transport(page).getByText('5 notes')).toBeVisible();
  const address = page.url();
  await page.goto('about:blank');
  await context.setOffline(false);
  await page.goto(address);
  await expect(page.getByText(/^What was being recorded on .* is in its part/)).toBeVisible();
  const recovered = await shown<Shown>(page, 'note');
  expect(recovered.map(({ key }) => key)).toEqual([60, 62, 64, 65, 67]);
  expect((recovered[1].startTick - recovered[0].startTick) / 960).toBeCloseTo(sent[2] - sent[0], 1);
  // Once: another visit does not write it again.
  await expect(page.getByRole('status').filter({ hasText: /^Saved \d/ })).toBeVisible();
  await page.reload();
  await expect.poll(async () => (await shown<Shown>(page, 'note')).length).toBe(5);
});

test('rounds of a loop are kept side by side, chosen and spliced; articulations become marks', async ({
  page,
}) => {
  await enter(page);
  await newCue(page, `Rounds ${Date.now() % 100_000}`);
  await setTempo(page, 120);
  // The loop is two bars: four seconds.
  const line = page.getByRole('slider', { name: 'Playhead and loop' });
  const loopOver = async (from: number, bars: number) => {
    await page.getByRole('button', { name: 'Go to a bar or a time' }).click();
    await page.getByRole('textbox', { name: 'Go to' }).fill(`${from}.1`);
    await page.keyboard.press('Enter');
    await line.focus();
    await line.press('l');
    const ends = async () => (await shown<{ loopEndTick: number }>(page, 'cue'))[0].loopEndTick;
    const end = (from - 1 + bars) * 3840;
    for (let i = 0; i < 16 && (await ends()) !== end; i++)
      await line.press((await ends()) < end ? 'Shift+ArrowRight' : 'Shift+ArrowLeft');
    expect(await ends()).toBe(end);
  };
  await loopOver(1, 2);
  await transport(page).getByRole('button', { name: 'Loop' }).click();
  await page.getByRole('button', { name: 'Recording', exact: true }).click();
  await page.getByLabel('Count-in').selectOption('1 bar');
  await page.getByLabel('What is there').selectOption('gives way');
  await record(page).click();
  await expect(transport(page).getByRole('button', { name: 'Stop' })).toBeVisible();
  // A bar counts in; from its second beat on a key in either bar of both rounds, in the second with another articulation.
  await expect(page.getByRole('button', { name: 'Go to a bar or a time' })).toHaveText(/^1\.2/);
  await play(page, [
    [0.2, 0x90, 60, 80],
    [0.4, 0x80, 60, 0],
    [2.2, 0x90, 62, 80],
    [2.4, 0x80, 62, 0],
  ]);
  await page.getByLabel('Hand plays').selectOption('staccato');
  await play(page, [
    [1.6, 0x90, 64, 80],
    [1.8, 0x80, 64, 0],
    [3.6, 0x90, 65, 80],
    [3.8, 0x80, 65, 0],
  ]);
  await stop(page);
  const takes = page.getByRole('list', { name: 'Takes' }).getByRole('listitem');
  await expect(takes).toHaveCount(2);
  await expect(takes.first()).toContainText('2 notes');
  const sounding = async () =>
    (await shown<Shown>(page, 'note')).map(({ key, startTick }) => [key, Math.floor(startTick / 3840)]);
  expect(await sounding()).toEqual([
    [64, 0],
    [65, 1],
  ]);
  expect((await shown<Shown>(page, 'mark')).map(({ articulation }) => articulation)).toEqual(['staccato']);
  await page.getByRole('button', { name: 'Use Take 1', exact: true }).click();
  expect(await sounding()).toEqual([
    [60, 0],
    [62, 1],
  ]);
  // Spliced: the second bar of the second round.
  await loopOver(2, 1);
  await page.getByRole('button', { name: 'Use Take 2 within the loop' }).click();
  expect(await sounding()).toEqual([
    [60, 0],
    [65, 1],
  ]);
  await page.getByRole('button', { name: 'Undo' }).click();
  expect(await sounding()).toEqual([
    [60, 0],
    [62, 1],
  ]);
});

test('two people who record into one empty part at once both keep what they played', async ({ browser }) => {
  const pages = await Promise.all([1, 2].map(async () => (await browser.newContext()).newPage()));
  const [first, second] = pages;
  await enter(first);
  const name = `Duet ${Date.now() % 100_000}`;
  await newCue(first, name);
  await enter(second, 'Tomas Oake');
  await second.getByLabel('Cue', { exact: true }).selectOption({ label: name });
  await expect(second.getByRole('heading', { name, level: 1 })).toBeVisible();
  for (const page of pages) {
    await page.getByRole('button', { name: 'Recording', exact: true }).click();
    await page.getByLabel('Count-in').selectOption('none');
  }
  await Promise.all(pages.map((page) => record(page).click()));
  for (const page of pages) await expect(transport(page).getByRole('button', { name: 'Stop' })).toBeVisible();
  await Promise.all([play(first, keys([60, 62, 64], 0.4)), play(second, keys([72, 74, 76], 0.4))]);
  await Promise.all(pages.map(stop));
  for (const page of pages)
    await expect
      .poll(async () => (await shown<Shown>(page, 'note')).map(({ key }) => key).sort((a, b) => a - b))
      .toEqual([60, 62, 64, 72, 74, 76]);
  // What one of them takes back is their own.
  await second.getByRole('button', { name: 'Undo' }).click();
  for (const page of pages)
    await expect
      .poll(async () => (await shown<Shown>(page, 'note')).map(({ key }) => key).sort((a, b) => a - b))
      .toEqual([60, 62, 64]);
});

test('a phrase that was played without recording can be kept, and keys write note by note', async ({
  page,
}) => {
  await enter(page);
  await newCue(page, `Kept ${Date.now() % 100_000}`);
  await page.getByRole('button', { name: 'Recording', exact: true }).click();
  const sent = await play(page, keys([60, 64, 67], 0.25));
  await page.getByRole('button', { name: 'Keep what was played last: 3 notes' }).click();
  const kept = await shown<Shown>(page, 'note');
  expect(kept.map(({ key }) => key)).toEqual([60, 64, 67]);
  expect(kept[0].startTick).toBe(0);
  // A quarter is a second; the second key is the third message.
  expect((kept[1].startTick - kept[0].startTick) / 960).toBeCloseTo(sent[2] - sent[0], 2);
  await page.getByRole('button', { name: 'Undo' }).click();

  // A chord, a rest, a note: eighths one after the other.
  await page.getByRole('button', { name: 'Keys write' }).click();
  await play(page, [
    [0, 0x90, 60, 80],
    [0.05, 0x90, 64, 80],
    [0.1, 0x80, 60, 0],
    [0.15, 0x80, 64, 0],
  ]);
  await page.getByRole('button', { name: 'Rest', exact: true }).click();
  await play(page, keys([67], 0.1));
  expect(
    (await shown<Shown>(page, 'note')).map(({ key, startTick, endTick }) => [key, startTick, endTick]),
  ).toEqual([
    [60, 0, 480],
    [64, 0, 480],
    [67, 960, 1440],
  ]);
});

test('a tempo that moves and a place that is fitted are heard where they should be', async ({
  page,
}, info) => {
  await enter(page);
  await newCue(page, `Moves ${Date.now() % 100_000}`);
  // Plucked notes on the beats of two bars.
  await page.getByLabel('Hand plays').selectOption('pizzicato');
  await page.getByRole('button', { name: 'Recording', exact: true }).click();
  await page.getByRole('button', { name: 'Keys write' }).click();
  await page.getByLabel('Grid').selectOption('1/4');
  await play(page, keys([69, 69, 69, 69, 69, 69, 69, 69], 0.12));
  await page.getByRole('button', { name: 'Time', exact: true }).click();
  const goTo = async (text: string) => {
    await page.getByRole('button', { name: 'Go to a bar or a time' }).click();
    await page.getByRole('textbox', { name: 'Go to' }).fill(text);
    await page.keyboard.press('Enter');
  };
  const tempos = page.getByRole('list', { name: 'Changes of tempo' }).getByRole('listitem');
  // From 60 to 120 over the first bar.
  await goTo('2.1');
  await page.getByRole('button', { name: 'Tempo at the playhead' }).click();
  const second = tempos.nth(1).getByRole('textbox', { name: 'Quarters a minute' });
  await second.fill('120');
  await second.press('Enter');
  await page.getByRole('button', { name: 'From 1.1 move evenly to the next tempo' }).click();
  await goTo('2.1');
  // ∫ 60/(60 + 15 q) dq over four quarters = 4 ln 2 = 2.77 s.
  await expect(page.getByRole('button', { name: 'Go to a bar or a time' })).toHaveText('2.10:02.8');

  // The third beat of bar 2 has a marker, which is to come at five seconds.
  await goTo('2.3');
  const bars = page.getByRole('slider', { name: 'Playhead and loop' });
  await bars.focus();
  await bars.press('k');
  await page.getByRole('textbox', { name: 'Name' }).fill('Lamp');
  await page.getByRole('button', { name: 'Set it' }).click();
  const time = page.getByRole('textbox', { name: 'Time of Lamp' });
  await time.fill('0:02');
  await time.press('Enter');
  await expect(page.getByRole('alert').filter({ hasText: 'It can fall between' })).toBeVisible();
  await time.fill('0:05');
  await time.press('Enter');
  await expect(time).toHaveValue('0:05');
  // The shared hall would blur the plucks.
  await page.getByRole('button', { name: 'Time', exact: true }).click();
  await page.getByRole('slider', { name: 'Hall', exact: true }).focus();
  await page.keyboard.press('Home');
  const wav = await bounceAndRead(page, info.outputPath('moves.wav'));
  const [left, right] = wav.channels;
  const mono = left.map((value, i) => value + right[i]);
  const half = (5 - 4 * Math.LN2) / 2;
  const beats = [
    ...[0, 1, 2, 3].map((quarter) => 4 * Math.log(1 + quarter / 4)),
    4 * Math.LN2,
    4 * Math.LN2 + half,
    5,
    5.5,
  ];
  // Where each is first half as loud as its loudest: the same for all plucks of one sound but for their takes.
  const heard = beats.map((seconds) => {
    const from = Math.round((PRE_ROLL + seconds - 0.05) * wav.rate);
    const piece = mono.slice(from, from + Math.round(0.2 * wav.rate)).map(Math.abs);
    const top = Math.max(...piece);
    return piece.findIndex((value) => value > top / 2) / wav.rate - 0.05;
  });
  const usual = [...heard].sort((a, b) => a - b)[heard.length >> 1];
  for (const one of heard) expect(Math.abs(one - usual)).toBeLessThan(0.02);
  await page.getByRole('link', { name: 'Cue' }).click();
  await page.getByRole('slider', { name: 'Hall', exact: true }).focus();
  await page.keyboard.press('Backspace');
  await expect(page.getByRole('status').filter({ hasText: /^Saved \d/ })).toBeVisible();
});

test('how late hands are is measured by striking a key with clicks, and taken off', async ({ page }) => {
  await listen(page);
  await enter(page);
  await transport(page).getByRole('button', { name: 'Play' }).click();
  await page.waitForFunction(() => (window.ear?.stamps.length ?? 0) > 5);
  await stop(page);
  await page.getByRole('button', { name: 'Recording', exact: true }).click();
  // The last of the cue has to have died away.
  await page.waitForTimeout(3000);
  await page.evaluate(() => window.ear?.onsets.splice(0));
  await page.getByRole('button', { name: 'Measure it' }).click();
  await page.waitForFunction(() => (window.ear?.onsets.length ?? 0) >= 3);
  // A robot strikes a key with each of ten clicks, 40 ms late.
  await page.evaluate(async () => {
    const ear = window.ear;
    if (!ear) throw new Error('nothing was heard');
    const middle = (list: number[]) => [...list].sort((a, b) => a - b)[list.length >> 1];
    const first = middle(ear.onsets.slice(0, 3).map((onset, i) => onset - i * 0.6));
    const heardAt = () =>
      performance.now() / 1000 -
      middle(ear.stamps.slice(-5).map(({ context, page: at }) => at / 1000 - context));
    for (let click = 4; click < 14; click++) {
      while (heardAt() < first + click * 0.6 + 0.04) await new Promise((resolve) => setTimeout(resolve, 0));
      window.farloMeasuring?.send([0x90, 60, 80]);
      window.farloMeasuring?.send([0x80, 60, 0]);
    }
  });
  const said = page.getByRole('status').filter({ hasText: 'taken off from now on' });
  await expect(said).toBeVisible();
  expect(Number(/, (\d+) ms late/.exec((await said.textContent()) ?? '')?.[1])).toBeGreaterThan(32);
  expect(Number(/, (\d+) ms late/.exec((await said.textContent()) ?? '')?.[1])).toBeLessThan(50);
  // Uneven strokes tell nothing, and leave what was found.
  await page.getByRole('button', { name: 'Measure it' }).click();
  await page.waitForTimeout(700);
  await play(
    page,
    [0, 0.35, 0.5, 1.1, 1.3, 1.95, 2.2, 2.7].map((at) => [at, 0x90, 60, 80] as const),
  );
  await page.getByRole('button', { name: /^Strike a key/ }).click();
  await expect(page.getByRole('status').filter({ hasText: 'Too uneven to tell' })).toBeVisible();
});
