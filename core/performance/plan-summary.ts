import type { Plan } from './plan.ts';

/** Something of a plan that will not sound as written, with the notes it is of, in order. */
export interface PlannedFinding {
  sentence: string;
  noteIds: string[];
}

const MOST_FINDINGS = 12;

/**
 * Shortest and longest lead of each technique in seconds, and the first findings with the notes they are of. O(notes): a part may have
 * tens of thousands, and all of them the same finding.
 */
export function planSummary({ segments, context }: Plan): {
  leads: Map<string, { low: number; high: number }>;
  findings: PlannedFinding[];
} {
  const leads = new Map<string, { low: number; high: number }>();
  const findings = new Map<string, PlannedFinding>();
  for (const { sounds, findings: own } of segments) {
    for (const { gesture, articulation, beatSeconds, startSeconds } of sounds) {
      if (gesture === 'hold') continue;
      const name =
        gesture === 'move' ? 'recorded moves' : context.instrument.articulations[articulation].name;
      const lead = beatSeconds - startSeconds;
      const range = leads.get(name);
      if (range === undefined) leads.set(name, { low: lead, high: lead });
      else if (lead < range.low) range.low = lead;
      else if (lead > range.high) range.high = lead;
    }
    for (const { sentence, noteId } of own) {
      const known = findings.get(sentence);
      if (known) known.noteIds.push(noteId);
      else findings.set(sentence, { sentence, noteIds: [noteId] });
    }
  }
  return { leads, findings: [...findings.values()].slice(0, MOST_FINDINGS) };
}
