import { writeWav } from '#core/formats/index.ts';
import {
  DEMO_LIBRARIES,
  instrumentSfz,
  ordersOf,
  recipeOf,
  recordedFor,
  recordTake,
  takeFile,
  type InstrumentPlan,
  type LibraryPlan,
} from '#core/recording/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import type { NewInstrument } from '../store/catalogue.ts';
import { memorySource } from '../samples/file-source.ts';
import { takeIn } from '../samples/take-in.ts';
import { runWorker } from './worker-port.ts';

/** Which instruments to record, one after the other. */
export interface RecordOrder {
  dataFolder: string;
  instruments: { library: string; instrument: string }[];
}

/** One instrument, recorded and taken in. */
export interface Recorded {
  library: string;
  instrument: NewInstrument;
}

const SHARE_OF_RECORDING = 0.75;

await runWorker<RecordOrder, Recorded | undefined>(async ({ dataFolder, instruments }, progress, part) => {
  for (const [i, wanted] of instruments.entries()) {
    const library = DEMO_LIBRARIES.find(({ slug }) => slug === wanted.library);
    const plan = library?.instruments.find(({ slug }) => slug === wanted.instrument);
    if (!library || !plan) continue;
    const share = (own: number) => progress((i + own) / instruments.length, `${library.name}: ${plan.name}`);
    part({ library: library.slug, instrument: await recordInstrument(library, plan, dataFolder, share) });
  }
  return undefined;
});

/** Records an instrument and takes it in by the same road as a user's own SFZ, without touching the disk between. */
async function recordInstrument(
  library: LibraryPlan,
  plan: InstrumentPlan,
  dataFolder: string,
  share: (own: number) => void,
): Promise<NewInstrument> {
  const files = new Map<string, Uint8Array>();
  const orders = plan.techniques.flatMap((technique) =>
    ordersOf(technique).map((order) => recordedFor(technique, order)),
  );
  orders.forEach((order, i) => {
    if (!files.has(takeFile(order, library.hall.mics[0].id)))
      for (const [position, { left, right }] of recordTake(plan, library.hall, order))
        files.set(
          takeFile(order, position),
          writeWav({ rate: ENGINE_RATE, format: 'i16', channels: [left, right] }),
        );
    share((SHARE_OF_RECORDING * (i + 1)) / orders.length);
  });
  files.set(`${plan.name}.sfz`, new TextEncoder().encode(instrumentSfz(plan, library.hall)));
  const { family, kind, playerCount: players, tags } = plan;
  const taken = await takeIn(
    memorySource(files),
    {
      library: library.name,
      maker: library.maker,
      room: library.hall.name,
      recipe: recipeOf(library),
      facts: library.facts,
      instruments: { [plan.name]: { family, kind, players, tags } },
    },
    dataFolder,
    new Set(),
    (own) => share(SHARE_OF_RECORDING + (1 - SHARE_OF_RECORDING) * own),
  );
  return { ...taken.instruments[0], recipe: recipeOf(library) };
}
