import type { RecordKind } from '#api/index.ts';
import { listOf, useDocuments } from '../state/documents.ts';
import { bounceOrder, startBounce } from './deliver.ts';
import { makeFolder, removeFolder } from './folders.ts';
import { soundHost } from './host.ts';
import { useInstruments } from './instruments.ts';
import { sendFrom, STAND_IN, type MidiBytes } from './midi.ts';
import { pageMemory } from './page-memory.ts';
import { meters } from './performance-state.ts';
import { whatIsMissing } from './readiness.ts';
import { play, stop } from './transport.ts';

/** What automated measurements of the running page may use: the engine's real output and a bounce to hold it against. */
const send = (bytes: MidiBytes) => sendFrom(STAND_IN, bytes);
const measuring = {
  soundHost,
  bounceOrder,
  startBounce,
  makeFolder,
  removeFolder,
  meters,
  play,
  stop,
  useInstruments,
  shown: (kind: RecordKind) => [...listOf(useDocuments.getState().records, kind)],
  send,
  pageMemory,
  whatIsMissing,
};

declare global {
  interface Window {
    farloMeasuring?: typeof measuring;
  }
}

/** Makes the measuring handle reachable from outside the page's modules. */
export function offerMeasuring(): void {
  window.farloMeasuring = measuring;
}
