/** A library as the shelf lists it. */
export interface LibrarySummary {
  id: string;
  name: string;
  maker: string;
  room: string;
  bytes: number;
  /** What of its files changes nothing here; see the import report. */
  unsupported: { opcode: string; reason: string; count: number; place: string }[];
  instruments: InstrumentSummary[];
}

export interface InstrumentSummary {
  id: string;
  name: string;
  family: string;
  kind: string;
  players: number;
  positions: { id: string; name: string }[];
  articulations: ArticulationSummary[];
  bytes: number;
}

export interface ArticulationSummary {
  id: string;
  name: string;
  low: number;
  high: number;
  layers: number;
  takes: number;
  /** Recorded transitions, 0 when there are none. */
  transitions: number;
  /** Memory of its samples, all positions. */
  bytes: number;
}

/** Long work on the server. */
export interface JobInfo {
  id: string;
  kind: 'import' | 'recording';
  title: string;
  state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';
  /** 0…1. */
  progress: number;
  /** What it is doing, or why it failed. */
  message: string;
  /** The library that came of it. */
  libraryId?: string;
}

/** How failures travel: `application/problem+json` with Farlo's code and place. */
export interface Problem {
  title: string;
  status: number;
  code: string;
  place?: Record<string, unknown>;
  conflicts?: unknown;
}
