import '../testing/browser.ts';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { InstrumentReport, JobInfo } from '#api/index.ts';
import { FakeServer } from '../testing/fake-server.ts';
import { eventually } from '../../core/testing/eventually.ts';

const forgotten: string[] = [];
vi.mock('../sound/instruments.ts', () => ({ forgetInstrument: (id: string) => forgotten.push(id) }));
const { cancelJob, jobDone, loadLibraries, lookAtJobs, useLibraries, watchLibraries } =
  await import('./libraries.ts');
const { passageOf, removeReference, takeReference } = await import('./references.ts');
const { lookAtReport, measure, stopMeasuring, useReports } = await import('./reports.ts');
const { queries } = await import('./queries.ts');

let server: FakeServer;
let uninstall: () => void;
let unwatch: () => void;
let jobs: JobInfo[];
let libraries: unknown[];
const job = (id: string, more: Partial<JobInfo> = {}): JobInfo => ({
  id,
  kind: 'import',
  title: 'T',
  state: 'running',
  progress: 0,
  message: 'm',
  parts: 0,
  ...more,
});
const library = (bytes: number, articulations = 1) => ({
  id: 'l',
  instruments: [{ id: 'i', bytes, articulations: Array.from({ length: articulations }, () => ({})) }],
});
const asked = (line: string) => server.requests.filter((one) => one === line).length;

beforeEach(async () => {
  queries.clear();
  forgotten.length = 0;
  server = new FakeServer();
  uninstall = server.install();
  jobs = [];
  libraries = [library(5)];
  server.others.set('GET /jobs', () => ({ body: jobs }));
  server.others.set('GET /libraries', () => ({ body: libraries }));
  useLibraries.setState({ libraries: undefined, jobs: [], trouble: undefined });
  unwatch = watchLibraries();
  await eventually(() => expect(useLibraries.getState().libraries).toBeDefined());
});
afterEach(() => {
  unwatch();
  uninstall();
});

describe('libraries', () => {
  it('are asked for once while nothing happens', async () => {
    expect(useLibraries.getState()).toMatchObject({ libraries, trouble: undefined });
    await new Promise((resolve) => setTimeout(resolve, 50));
    expect([asked('GET /libraries'), asked('GET /jobs')]).toEqual([1, 1]);
  });
  it('are asked for again when work has made something, and work is looked at often while it goes on', async () => {
    jobs = [job('j', { parts: 1 })];
    lookAtJobs();
    await eventually(() => expect(asked('GET /libraries')).toBe(2));
    await eventually(() => expect(asked('GET /jobs')).toBeGreaterThan(3));
    expect(asked('GET /libraries')).toBe(2);
    jobs = [job('j', { parts: 1, state: 'done' })];
    await eventually(() => expect(asked('GET /libraries')).toBe(3));
  });
  it('whose recordings changed are loaded again, and only those', async () => {
    libraries = [library(5), { id: 'm', instruments: [{ id: 'new', bytes: 1, articulations: [] }] }];
    await loadLibraries();
    expect(forgotten).toEqual([]);
    libraries = [library(6)];
    await loadLibraries();
    await eventually(() => expect(forgotten).toEqual(['i']));
    libraries = [library(6, 2)];
    await loadLibraries();
    await eventually(() => expect(forgotten).toEqual(['i', 'i']));
  });
  it('that cannot be asked for leave what is known, with the reason', async () => {
    server.others.set('GET /libraries', () => ({
      status: 500,
      body: { title: 'It is broken.', status: 500, code: 'server.failure' },
    }));
    await loadLibraries();
    await eventually(() => expect(useLibraries.getState().trouble).toBe('It is broken.'));
    expect(useLibraries.getState().libraries).toEqual(libraries);
    server.others.set('GET /libraries', () => ({ body: libraries }));
    await loadLibraries();
    await eventually(() => expect(useLibraries.getState().trouble).toBeUndefined());
  });
});

describe('work', () => {
  it('is given up on the server', async () => {
    server.others.set('DELETE /jobs/j', () => ({ body: {} }));
    await cancelJob('j');
    expect(asked('DELETE /jobs/j')).toBe(1);
  });
  it('is waited for: what came of it, or why it failed', async () => {
    jobs = [job('good'), job('bad')];
    lookAtJobs();
    const [good, bad] = [jobDone('good'), jobDone('bad').catch((error: Error) => error.message)];
    await eventually(() => expect(useLibraries.getState().jobs).toHaveLength(2));
    jobs = [
      job('good', { state: 'done', resultId: 'r' }),
      job('bad', { state: 'failed', message: 'No sound in it.' }),
    ];
    lookAtJobs();
    expect([await good, await bad]).toEqual(['r', 'No sound in it.']);
    jobs = [job('none', { state: 'done' })];
    lookAtJobs();
    expect(await jobDone('none')).toBe('');
  });
});

describe('recordings to hold sounds against', () => {
  it('are sent as a file and waited for', async () => {
    let name: unknown;
    server.others.set('POST /references', (body) => {
      name = ((body as FormData).get('files') as File).name;
      jobs = [job('ref', { state: 'done', resultId: 'made' })];
      return { body: job('ref') };
    });
    expect(await takeReference(new File(['x'], 'hero.wav'))).toBe('made');
    expect(name).toBe('hero.wav');
    server.others.set('DELETE /references/made', () => ({ status: 204 }));
    await removeReference('made');
    expect(asked('DELETE /references/made')).toBe(1);
  });
  it('come as passages in two channels of floats', async () => {
    const wire = new Int16Array([16384, -32768, 0, 32767]);
    const before = globalThis.fetch;
    globalThis.fetch = ((path: string) =>
      Promise.resolve(
        new Response(path.endsWith('/references/x/passage?from=7&to=9') ? wire : null),
      )) as typeof fetch;
    const { left, right } = await passageOf('x', 7, 9);
    globalThis.fetch = before;
    expect([[...left], [...right]]).toEqual([
      [0.5, 0],
      [-1, 32767 / 32768],
    ]);
    expect(left.buffer).toBeInstanceOf(SharedArrayBuffer);
  });
});

describe('a report', () => {
  const report = (more: Partial<InstrumentReport> = {}): InstrumentReport => ({
    reports: [],
    missing: ['long'],
    job: null,
    ...more,
  });
  const known = (id: string) => useReports.getState().reports[id];
  it('is fetched, measured, and followed until it is done', async () => {
    let answer = report();
    server.others.set('GET /instruments/a/report', () => ({ body: answer }));
    server.others.set('POST /instruments/a/report', () => ({ body: (answer = report({ job: job('m') })) }));
    lookAtReport('a');
    await eventually(() => expect(known('a')).toEqual(report()));
    measure('a');
    await eventually(() => expect(known('a')?.job?.id).toBe('m'));
    answer = report({ missing: [] });
    await eventually(() => expect(known('a')).toEqual(report({ missing: [] })));
    const times = asked('GET /instruments/a/report');
    await new Promise((resolve) => setTimeout(resolve, 900));
    expect(asked('GET /instruments/a/report')).toBe(times);
    lookAtReport('a');
    await eventually(() => expect(asked('GET /instruments/a/report')).toBe(times + 1));
  });
  it('that is given up ends its work and is looked at again', async () => {
    server.others.set('GET /instruments/b/report', () => ({ body: report({ job: job('mb') }) }));
    server.others.set('DELETE /jobs/mb', () => ({ body: {} }));
    lookAtReport('b');
    await eventually(() => expect(known('b')?.job?.id).toBe('mb'));
    server.others.set('GET /instruments/b/report', () => ({ body: report() }));
    await stopMeasuring('b');
    expect(asked('DELETE /jobs/mb')).toBe(1);
    await eventually(() => expect(known('b')?.job).toBeNull());
    await stopMeasuring('b');
    expect(asked('DELETE /jobs/mb')).toBe(1);
  });
  it('that cannot be had says why, and keeps what was known', async () => {
    const gone = {
      status: 404,
      body: { title: 'There is no such instrument here.', status: 404, code: 'not-found' },
    };
    server.others.set('GET /instruments/c/report', () => gone);
    lookAtReport('c');
    await eventually(() =>
      expect(known('c')).toEqual({
        reports: [],
        missing: [],
        job: null,
        trouble: 'There is no such instrument here.',
      }),
    );
    server.others.set('POST /instruments/d/report', () => gone);
    measure('d');
    await eventually(() =>
      expect(known('d')).toEqual({
        reports: [],
        missing: [],
        job: null,
        trouble: 'There is no such instrument here.',
      }),
    );
  });
});
