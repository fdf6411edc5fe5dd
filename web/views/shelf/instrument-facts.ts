import type { InstrumentSummary, LibrarySummary } from '#api/index.ts';
import { KIND_NAMES, VIBRATO_KINDS, VIBRATO_NAMES } from '#core/catalogue/index.ts';
import { pitchName } from '#core/music/index.ts';
import { megabytes } from '../../ui/megabytes.ts';

/** Facts of an instrument as lines to read, in the order in which people ask for them. */
export function instrumentFacts(
  instrument: InstrumentSummary,
  library: LibrarySummary,
  verdict: string,
): { name: string; text: string }[] {
  const { articulations } = instrument;
  const most = (of: (one: (typeof articulations)[number]) => number) =>
    articulations.reduce((high, one) => Math.max(high, of(one)), 0);
  const low = articulations.reduce((least, one) => Math.min(least, one.low), 127);
  const moves = articulations.reduce((sum, one) => sum + one.transitions, 0);
  const vibrato = VIBRATO_KINDS.flatMap((kind) => {
    const count = articulations.filter((one) => one.vibrato === kind).length;
    return count > 0 ? `${VIBRATO_NAMES[kind]} (${count})` : [];
  });
  return [
    { name: 'Library', text: library.name },
    { name: 'Kind', text: `${instrument.family}, ${KIND_NAMES[instrument.kind] ?? instrument.kind}` },
    { name: 'Players', text: String(instrument.players) },
    { name: 'Room', text: `${library.room}, ${library.facts.roomSound}` },
    { name: 'Character', text: instrument.tags.join(', ') || '—' },
    { name: 'Range', text: `${pitchName(low)} to ${pitchName(most(({ high }) => high))}` },
    {
      name: 'Positions',
      text: `${instrument.positions.length}: ${instrument.positions.map(({ name }) => name.toLowerCase()).join(', ')}`,
    },
    { name: 'Techniques', text: String(articulations.length) },
    { name: 'Layers', text: `up to ${most(({ layers }) => layers)}` },
    { name: 'Takes', text: `up to ${most(({ takes }) => takes)}` },
    { name: 'Moves', text: moves > 0 ? `${moves} recorded` : '—' },
    { name: 'Vibrato', text: vibrato.join(', ') },
    { name: 'Memory', text: megabytes(instrument.bytes) },
    { name: 'Verdict', text: verdict || 'none yet' },
  ];
}
