import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { NO_FACTS, type Instrument } from '#core/catalogue/index.ts';
import {
  findingsOf,
  measureArticulation,
  type ArticulationReport,
  type Finding,
} from '#core/report/index.ts';
import type { SeededLibrary } from '#core/testing/library/index.ts';
import { memorySource } from '../samples/file-source.ts';
import { readSample } from '../samples/read-sample.ts';
import { takeIn } from '../samples/take-in.ts';

/** What Farlo makes of a library that was taken in as a user takes one in. */
export interface TakenIn {
  instrument: Instrument;
  reports: ArticulationReport[];
  findings: Finding[];
}

/** Takes a library in, reads its packs back and measures all of it. */
export async function measuredByTheUsersRoad(library: SeededLibrary): Promise<TakenIn> {
  const folder = mkdtempSync(join(tmpdir(), 'farlo-seeded-'));
  try {
    const kind = library.players > 1 ? ('section' as const) : ('solo' as const);
    const facts = {
      library: 'Tide',
      maker: 'own',
      room: '',
      recipe: 'import',
      facts: NO_FACTS,
      instruments: {
        Tide: {
          family: 'winds' as const,
          kind,
          players: library.players,
        },
      },
      ...(library.pattern === undefined ? {} : { pattern: library.pattern }),
    };
    const { instruments } = await takeIn(
      memorySource(library.files),
      facts,
      folder,
      new Set(),
      () => undefined,
    );
    const instrument: Instrument = { ...instruments[0], id: `seeded ${library.seed}` };
    const reports = instrument.articulations.map((articulation) =>
      measureArticulation(
        instrument,
        articulation,
        (id) => readSample(folder, instrument.samples[id]),
        () => undefined,
      ),
    );
    return { instrument, reports, findings: findingsOf({ name: 'Tide', kind, reports }, []) };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
