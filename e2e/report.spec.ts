import { expect, test, type Page } from '@playwright/test';
import type { InstrumentReport, InstrumentSummary, LibrarySummary } from '#api/index.ts';
import type { InstrumentKind } from '#core/catalogue/index.ts';
import { BELLS, DEMO_LIBRARIES, FAULTS } from '#core/recording/index.ts';
import { findingsOf, siblingsOf, type ArticulationReport } from '#core/report/index.ts';
import { enter } from './helpers.ts';

/** The code under which a planted fault must be told. */
const CODE: Record<keyof typeof FAULTS, string> = {
  layerStep: 'layer-step',
  lateShort: 'late-short',
  borrowedTakes: 'borrowed-take',
  repeatedTake: 'repeated-take',
  mistunedZone: 'mistuned',
  staticLoop: 'static-loop',
  loudArticulation: 'out-of-level',
  noisyPosition: 'noisy',
  narrowClose: 'mono-point',
  ringing: 'resonance',
  slowTransition: 'slow-move',
  lackingSection: 'missing-technique',
  unmarkedRoll: 'no-length',
};

/** Libraries of the demo; other tests bring in more. */
const NAMES = new Set([...DEMO_LIBRARIES.map((library) => library.name), BELLS.library]);

/** What the truth table says must be told: “library / instrument: code”. */
function truth(libraries: readonly LibrarySummary[]): string[] {
  const wanted = new Set<string>();
  for (const [name, fault] of Object.entries(FAULTS)) {
    const library = libraries.find((one) => one.name === fault.library);
    for (const instrument of library?.instruments ?? []) {
      // What is planted on a position is in every instrument of the library; a lone player is a point by nature.
      if (name === 'narrowClose' && instrument.kind === 'solo') continue;
      if (!('instrument' in fault) || fault.instrument === instrument.name)
        wanted.add(`${fault.library} / ${instrument.name}: ${CODE[name as keyof typeof FAULTS]}`);
    }
  }
  // The whole section plays the recordings of the violins, the repeated take too.
  wanted.add('Tarrowby Chamber / Whole section across the keys: repeated-take');
  return [...wanted].sort();
}

async function reports(page: Page, id: string): Promise<ArticulationReport[]> {
  for (;;) {
    const answer = (await (
      await page.request.get(`/api/instruments/${id}/report`)
    ).json()) as InstrumentReport;
    if (answer.missing.length === 0) return answer.reports;
    if (!answer.job)
      await page.evaluate(async (instrument) => {
        const { guard } = (await (await fetch('/api/session')).json()) as { guard: string };
        await fetch(`/api/instruments/${instrument}/report`, {
          method: 'POST',
          headers: { 'x-farlo-guard': guard },
        });
      }, id);
    await page.waitForTimeout(300);
  }
}

test('the measured report of the demo libraries finds every planted fault and invents none', async ({
  page,
}) => {
  test.setTimeout(30 * 60_000);
  await enter(page);
  const libraries = (await (await page.request.get('/api/libraries')).json()) as LibrarySummary[];
  const demo = libraries.filter((library) => NAMES.has(library.name));
  expect(demo).toHaveLength(NAMES.size);
  const measured = new Map<string, ArticulationReport[]>();
  for (const { instruments } of demo)
    for (const { id } of instruments) measured.set(id, await reports(page, id));
  const known = ({ id, name, kind }: InstrumentSummary) => ({
    name,
    kind: kind as InstrumentKind,
    reports: measured.get(id) ?? [],
  });
  const found = new Set<string>();
  for (const library of demo)
    for (const instrument of library.instruments) {
      const siblings = siblingsOf(instrument, library.instruments).map(known);
      for (const finding of findingsOf(known(instrument), siblings))
        if (finding.weight === 'fault') found.add(`${library.name} / ${instrument.name}: ${finding.code}`);
    }
  expect([...found].sort()).toEqual(truth(demo));
});
