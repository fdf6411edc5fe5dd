import { createHash } from 'node:crypto';
import { acrossKeys, lightEdition } from '#core/catalogue/index.ts';
import { writeWav } from '#core/formats/index.ts';
import {
  BELLS,
  BELLS_FACTS,
  BELLS_RATE,
  BELLS_RECIPE,
  bellsSfz,
  bellTakes,
  DEMO_LIBRARIES,
  ordersOf,
  recipeOf,
  termsOf,
  type CompiledPlan,
  type InstrumentPlan,
  type LibraryPlan,
} from '#core/recording/index.ts';
import type { JobQueue } from '../jobs/jobs.ts';
import type { Recorded, RecordOrder } from '../jobs/record.worker.ts';
import { memorySource } from '../samples/file-source.ts';
import { takeIn } from '../samples/take-in.ts';
import { NO_REPORT, type Catalogue, type LibraryHead } from '../store/catalogue.ts';

/** Id of a demo instrument, the same in every studio's first start, so that the demo template can count on it. */
export function demoId(library: string, instrument: string): string {
  const hex = createHash('sha256').update(`${library}/${instrument}`).digest('hex');
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-4${hex.slice(13, 16)}-8${hex.slice(17, 20)}-${hex.slice(20, 32)}`;
}

/** Ids that the demo template and line-ups count on before their libraries are recorded. */
export const DEMO_INSTRUMENTS = {
  violins: demoId('wrenlow-strings-large', 'violins-1'),
  bells: demoId(BELLS.slug, 'bells'),
  chamberViolins: demoId('tarrowby-chamber', 'violins'),
  lightViolins: demoId('wrenlow-strings-light', 'light-violins-1'),
  soloViolin: demoId('tarrowby-soloists', 'solo-violin'),
  soloCello: demoId('tarrowby-soloists', 'solo-cello'),
  oboe: demoId('pellory-winds', 'oboe'),
} as const;

const headOf = (library: LibraryPlan): LibraryHead => ({
  name: library.name,
  maker: library.maker,
  room: library.hall.name,
  recipe: recipeOf(library),
  facts: library.facts,
  report: NO_REPORT,
});

const THREADS = 2;

/** Records and takes in the demo instruments that are missing or were made by another recipe. */
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
    await this.makeBells();
    const missing = await this.missing();
    if (missing.length > 0)
      await Promise.all(
        shared(missing).map((instruments, i, all) => this.record(instruments, i, all.length)),
      );
    for (const library of DEMO_LIBRARIES)
      for (const compiled of library.compiled) await this.compile(library, compiled);
  }

  private async makeBells(): Promise<void> {
    const known = await this.catalogue.recipesOf(this.studioId, BELLS.library);
    if (known.get(BELLS.instrument) === BELLS_RECIPE) return;
    const files = new Map<string, Uint8Array>();
    for (const { file, sound } of bellTakes())
      files.set(file, writeWav({ rate: BELLS_RATE, format: 'i24', channels: [sound] }));
    files.set(`${BELLS.instrument}.sfz`, new TextEncoder().encode(bellsSfz()));
    const taken = await takeIn(
      memorySource(files),
      {
        library: BELLS.library,
        maker: BELLS.maker,
        room: BELLS.room,
        recipe: BELLS_RECIPE,
        facts: BELLS_FACTS,
        instruments: {
          [BELLS.instrument]: { family: 'percussion', kind: 'solo', players: 1, tags: ['own', 'bright'] },
        },
      },
      this.dataFolder,
      new Set(),
      () => undefined,
    );
    const [instrument] = taken.instruments;
    await this.catalogue.put(this.studioId, taken, {
      ...instrument,
      id: DEMO_INSTRUMENTS.bells,
      recipe: BELLS_RECIPE,
    });
    this.say(`Recorded ${BELLS.library}; it can be played.`);
  }

  private async missing(): Promise<Wanted[]> {
    const out: Wanted[] = [];
    for (const library of DEMO_LIBRARIES) {
      const known = await this.catalogue.recipesOf(this.studioId, library.name);
      for (const plan of library.instruments)
        if (known.get(plan.name) !== recipeOf(library))
          out.push({ library: library.slug, instrument: plan.slug, effort: effortOf(library, plan) });
    }
    return out;
  }

  private record(instruments: readonly Wanted[], part: number, parts: number): Promise<void> {
    const data: RecordOrder = { dataFolder: this.dataFolder, instruments: [...instruments] };
    return new Promise((resolve, reject) => {
      const info = this.jobs.add<Recorded | undefined>({
        kind: 'recording',
        title: `Recording the demo orchestra${parts > 1 ? ` (${part + 1} of ${parts})` : ''}`,
        studioId: this.studioId,
        worker: new URL('../jobs/record.worker.ts', import.meta.url),
        data,
        part: async (recorded) => {
          if (recorded) await this.keep(recorded);
        },
        finish: () => Promise.resolve(undefined),
        ended: (state, message) =>
          state === 'done' ? resolve() : reject(new Error(`${info.title}: ${message}`)),
      });
    });
  }

  private async keep({ library: slug, instrument }: Recorded): Promise<void> {
    const library = DEMO_LIBRARIES.find((one) => one.slug === slug);
    const plan = library?.instruments.find(({ name }) => name === instrument.name);
    if (!library || !plan) return;
    const id = demoId(library.slug, plan.slug);
    await this.catalogue.put(this.studioId, headOf(library), { ...instrument, id });
    this.say(`Recorded ${library.name}: ${plan.name}.`);
  }

  /** Puts an instrument together from recorded ones; nothing new goes onto the disk. */
  private async compile(library: LibraryPlan, compiled: CompiledPlan): Promise<void> {
    const known = await this.catalogue.recipesOf(this.studioId, library.name);
    if (known.get(compiled.name) === recipeOf(library)) return;
    const parts = [];
    for (const { library: from, instrument: slug, low, high } of compiled.parts) {
      const source = DEMO_LIBRARIES.find((one) => one.slug === from);
      const plan = source?.instruments.find((one) => one.slug === slug);
      const instrument = source && plan && (await this.catalogue.find(this.studioId, source.name, plan.name));
      if (instrument) parts.push({ instrument, low, high });
    }
    if (parts.length === 0) return;
    const whole = acrossKeys(parts);
    const { keep } = compiled;
    const sounding = keep ? lightEdition(whole, { ...keep, articulations: keep.techniques }) : whole;
    await this.catalogue.put(this.studioId, headOf(library), {
      ...sounding,
      id: demoId(library.slug, compiled.slug),
      name: compiled.name,
      family: parts[0].instrument.family,
      kind: compiled.kind,
      players: compiled.playerCount,
      tags: compiled.tags,
      recipe: recipeOf(library),
    });
    this.say(`Put together ${library.name}: ${compiled.name}.`);
  }
}

interface Wanted {
  library: string;
  instrument: string;
  effort: number;
}

/** Work an instrument makes: seconds to record, times those who play and the microphones. */
function effortOf(library: LibraryPlan, plan: InstrumentPlan): number {
  const seconds = plan.techniques
    .flatMap((technique) => ordersOf(technique).map((order) => termsOf(technique, order).keptSeconds))
    .reduce((sum, one) => sum + one, 0);
  return seconds * (plan.players.length + 2 * library.hall.mics.length + 3);
}

/** Deals work out to the threads: in order, each to whoever has least so far. */
function shared(wanted: readonly Wanted[]): Wanted[][] {
  const hands = Array.from({ length: Math.min(THREADS, wanted.length) }, () => ({
    effort: 0,
    list: [] as Wanted[],
  }));
  for (const one of wanted) {
    const least = hands.reduce((best, hand) => (hand.effort < best.effort ? hand : best));
    least.effort += one.effort;
    least.list.push(one);
  }
  return hands.map((hand) => hand.list);
}
