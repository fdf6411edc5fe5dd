import type { LibraryFacts, VibratoKind } from '#core/catalogue/index.ts';

/** Something of an import that changes nothing here, or not as written, with where it was met first. */
export interface Remark {
  opcode: string;
  reason: string;
  count: number;
  place: string;
}

/** What came of an import, for people. */
export interface ImportReport {
  instruments: number;
  zones: number;
  recordings: number;
  /** Bytes that were not stored before. */
  bytes: number;
  converted: { reason: string; count: number }[];
  unsupported: Remark[];
  /** Instruments that were left out whole, and why. */
  failed: { name: string; sentence: string }[];
}

/** A library as the shelf lists it. */
export interface LibrarySummary {
  id: string;
  name: string;
  maker: string;
  room: string;
  facts: LibraryFacts;
  /** Bytes of its recordings, each counted once. */
  bytes: number;
  report: ImportReport;
  /** Why some of it cannot be played, or null. */
  trouble: string | null;
  instruments: InstrumentSummary[];
}

export interface InstrumentSummary {
  id: string;
  name: string;
  family: string;
  kind: string;
  players: number;
  tags: string[];
  /** Positions, with the memory of each, all articulations. */
  positions: { id: string; name: string; bytes: number }[];
  articulations: ArticulationSummary[];
  /** Memory of everything, shared recordings once. */
  bytes: number;
}

export interface ArticulationSummary {
  id: string;
  name: string;
  low: number;
  high: number;
  layers: number;
  takes: number;
  /** Recorded moves, 0 when there are none, and the keys they lead to. */
  transitions: number;
  movesLow: number;
  movesHigh: number;
  /** Keyswitch its maker suggests. */
  suggestedKey: number | null;
  /** How its vibrato is ridden. */
  vibrato: VibratoKind;
  /** Seconds to its arrival, where its name tells. */
  seconds: number | null;
  /** Memory of its samples, all positions. */
  bytes: number;
}

/** Long work on the server. */
export interface JobInfo {
  id: string;
  kind: 'scan' | 'import' | 'recording' | 'export' | 'measure' | 'reference' | 'hall';
  title: string;
  state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';
  /** 0…1. */
  progress: number;
  /** What it is doing, or why it failed. */
  message: string;
  /** Parts of its result that are there already, for example instruments of the demo. */
  parts: number;
  /** What came of it: the library of an import, the import of a scan, the file of an export. */
  resultId?: string;
}

/** How failures travel: `application/problem+json` with Farlo's code and place. */
export interface Problem {
  title: string;
  status: number;
  code: string;
  place?: Record<string, unknown>;
  conflicts?: unknown;
}
