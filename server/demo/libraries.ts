import { existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { availableParallelism } from 'node:os';
import { writeWav } from '#core/formats/index.ts';
import {
  BELLS,
  BELLS_RATE,
  BELLS_RECIPE,
  bellsSfz,
  bellTakes,
  STRINGS_LARGE,
  STRINGS_LARGE_RECIPE,
  stringsLargePreviewSfz,
  stringsLargeSfz,
} from '#core/recording/index.ts';
import type { ImportFacts } from '../samples/import-library.ts';
import type { JobQueue } from '../jobs/jobs.ts';
import type { ImportOrder } from '../jobs/import.worker.ts';
import type { RecordOrder } from '../jobs/record.worker.ts';
import type { Catalogue, NewLibrary } from '../store/catalogue.ts';

/** Ids that the demo template counts on before its libraries are recorded. */
export const DEMO_INSTRUMENTS = {
  violins: '5a17c1a5-0000-4000-8000-000000000001',
  bells: '5a17c1a5-0000-4000-8000-000000000002',
} as const;

const STRINGS_FACTS: ImportFacts = {
  library: STRINGS_LARGE.library,
  maker: STRINGS_LARGE.maker,
  room: STRINGS_LARGE.room,
  recipe: STRINGS_LARGE_RECIPE,
  family: 'strings',
  kind: 'section',
  players: STRINGS_LARGE.players,
  instrument: STRINGS_LARGE.instrument,
};

const BELLS_FACTS: ImportFacts = {
  library: BELLS.library,
  maker: BELLS.maker,
  room: BELLS.room,
  recipe: BELLS_RECIPE,
  family: 'percussion',
  kind: 'solo',
  players: 1,
  instrument: BELLS.instrument,
};

/** Records and takes in the demo libraries that are missing or were made by another recipe. */
export class DemoLibraries {
  constructor(
    private readonly catalogue: Catalogue,
    private readonly jobs: JobQueue,
    private readonly dataFolder: string,
    private readonly studioId: string,
    private readonly say: (line: string) => void,
  ) {}

  /** Resolves when everything can be played. */
  async make(): Promise<void> {
    await this.makeStrings();
    await this.makeBells();
  }

  private async makeBells(): Promise<void> {
    if ((await this.catalogue.recipeOf(this.studioId, BELLS.library)) === BELLS_RECIPE) return;
    const folder = join(this.dataFolder, 'recordings', BELLS.slug);
    mkdirSync(join(folder, 'bells'), { recursive: true });
    for (const { file, sound } of bellTakes())
      writeFileSync(join(folder, file), writeWav({ rate: BELLS_RATE, format: 'i24', channels: [sound] }));
    writeFileSync(join(folder, `${BELLS.instrument}.sfz`), bellsSfz());
    await this.takeIn(folder, BELLS_FACTS, DEMO_INSTRUMENTS.bells);
    this.say(`Recorded ${BELLS.library}.`);
  }

  private async makeStrings(): Promise<void> {
    const known = await this.catalogue.recipeOf(this.studioId, STRINGS_LARGE.library);
    if (known === STRINGS_LARGE_RECIPE) return;
    const folder = join(this.dataFolder, 'recordings', STRINGS_LARGE.slug);
    const complete = join(folder, `${STRINGS_LARGE_RECIPE}.complete`);
    const sfz = join(folder, `${STRINGS_LARGE.instrument}.sfz`);
    if (!existsSync(complete)) {
      rmSync(folder, { recursive: true, force: true });
      mkdirSync(folder, { recursive: true });
      if (known === undefined) {
        await this.record(folder, true);
        writeFileSync(sfz, stringsLargePreviewSfz());
        await this.takeIn(
          folder,
          { ...STRINGS_FACTS, recipe: `${STRINGS_LARGE_RECIPE} preview` },
          DEMO_INSTRUMENTS.violins,
        );
        this.say(`${STRINGS_LARGE.instrument} can be played (one layer); the rest is being recorded.`);
        await this.makeBells();
      }
      await this.record(folder, false);
      writeFileSync(sfz, stringsLargeSfz());
      writeFileSync(complete, '');
    }
    await this.takeIn(folder, STRINGS_FACTS, DEMO_INSTRUMENTS.violins);
    this.say(`Recorded ${STRINGS_LARGE.library}.`);
  }

  private async record(folder: string, preview: boolean): Promise<void> {
    const parts = Math.min(2, availableParallelism());
    await Promise.all(
      Array.from({ length: parts }, (_, part) => {
        const data: RecordOrder = { folder, part, parts, preview };
        return this.run<number>(
          preview ? 'First notes' : `Recording ${STRINGS_LARGE.library}`,
          new URL('../jobs/record.worker.ts', import.meta.url),
          data,
        );
      }),
    );
  }

  private async takeIn(folder: string, facts: ImportFacts, instrumentId: string): Promise<void> {
    const data: ImportOrder = { from: { folder }, facts, dataFolder: this.dataFolder };
    await this.run<NewLibrary>(
      `Taking in ${facts.library}`,
      new URL('../jobs/import.worker.ts', import.meta.url),
      data,
      (library) => {
        library.instruments[0].id = instrumentId;
        return this.catalogue.save(this.studioId, library);
      },
    );
  }

  private run<Result>(
    title: string,
    worker: URL,
    data: unknown,
    save?: (result: Result) => Promise<string>,
  ): Promise<void> {
    return new Promise((resolve, reject) => {
      const info = this.jobs.add<Result>({
        kind: 'recording',
        title,
        studioId: this.studioId,
        worker,
        data,
        finish: async (result) => (save ? await save(result) : undefined),
        ended: (state, message) =>
          state === 'done' ? resolve() : reject(new Error(`${info.title}: ${message}`)),
      });
    });
  }
}
