import { naturalId, type RecordFields } from '#api/index.ts';
import type { EqBand } from '#core/mixing/index.ts';
import type { Records } from './tables.ts';
import { edit, listOf, ownedBy, useDocuments, useList, type Item } from './documents.ts';

/** What a studio keeps of its listening: line-ups, preferences, blind rounds, phrases, scores, remarks, gaps. */

const CHOSEN_KEY = 'farlo-line-up';
const now = () => useDocuments.getState().records;
const add = <K extends Parameters<typeof listOf>[1]>(kind: K, fields: RecordFields<K>) => ({
  kind,
  id: crypto.randomUUID(),
  op: 'add' as const,
  fields: fields as unknown as Record<string, unknown>,
});

/** Contenders of a line-up, in their order. */
export function contendersOf(records: Records, lineUpId: string | undefined): readonly Item<'contender'>[] {
  return ownedBy(records, 'contender', lineUpId ?? '');
}

/** Line-ups by name. */
export function lineUpsOf(records: Records): Item<'lineUp'>[] {
  return [...listOf(records, 'lineUp')].sort((a, b) => a.name.localeCompare(b.name));
}

/** The line-up that was looked at last, while it exists; else the first. */
export function chosenLineUp(records: Records, chosen: string | undefined): Item<'lineUp'> | undefined {
  const list = lineUpsOf(records);
  const wanted = chosen ?? localStorage.getItem(CHOSEN_KEY);
  return list.find((one) => one.id === wanted) ?? list[0];
}

/** Remembers the line-up for the next visit. */
export function rememberLineUp(id: string): void {
  localStorage.setItem(CHOSEN_KEY, id);
}

/** Makes an empty line-up. @returns its id */
export function addLineUp(name: string): string {
  const made = add('lineUp', { name });
  edit('New line-up', [made]);
  rememberLineUp(made.id);
  return made.id;
}

/** Makes a line-up of techniques of instruments. @returns its id */
export function addFilledLineUp(
  name: string,
  contenders: readonly { instrumentId: string; articulation: string }[],
): string {
  const made = add('lineUp', { name: name.slice(0, 120) });
  edit('New line-up', [
    made,
    ...contenders.map((one, place) => add('contender', { ...one, lineUpId: made.id, place })),
  ]);
  rememberLineUp(made.id);
  return made.id;
}

export function renameLineUp(id: string, name: string): void {
  edit('Rename the line-up', [{ kind: 'lineUp', id, op: 'update', fields: { name } }], `line-up ${id}`);
}

/** Takes a line-up away with all that was said in it. */
export function removeLineUp(id: string): void {
  const records = now();
  const own = (kind: 'contender' | 'preference' | 'blindRound') =>
    listOf(records, kind)
      .filter((one) => one.lineUpId === id)
      .map((one) => ({ kind, id: one.id, op: 'remove' as const }));
  edit('Remove the line-up', [
    ...own('preference'),
    ...own('blindRound'),
    ...own('contender'),
    { kind: 'lineUp', id, op: 'remove' },
  ]);
}

/**
 * Puts a contender into a line-up; the first one is made where there is none.
 * @param articulation empty for the whole instrument
 * @returns the line-up's name, and whether it was in there already
 */
export function addContender(
  instrumentId: string,
  articulation: string,
  lineUpId?: string,
): { name: string; known: boolean } {
  const records = now();
  const lineUp = chosenLineUp(records, lineUpId);
  const made = lineUp ? undefined : add('lineUp', { name: 'Line-up' });
  const id = lineUp?.id ?? made?.id ?? '';
  const list = contendersOf(records, id);
  const name = lineUp?.name ?? 'Line-up';
  if (list.some((one) => one.instrumentId === instrumentId && one.articulation === articulation))
    return { name, known: true };
  edit('Add a contender', [
    ...(made ? [made] : []),
    add('contender', {
      lineUpId: id,
      instrumentId,
      articulation,
      place: (list.at(-1)?.place ?? 0) + 1,
    }),
  ]);
  return { name, known: false };
}

/** Takes a contender out, with the preferences given to it. */
export function removeContender(id: string): void {
  const preferences = listOf(now(), 'preference').filter((one) => one.contenderId === id);
  edit('Take a contender out', [
    ...preferences.map((one) => ({ kind: 'preference' as const, id: one.id, op: 'remove' as const })),
    { kind: 'contender', id, op: 'remove' },
  ]);
}

export function changeContender(id: string, articulation: string): void {
  edit('Choose a technique', [{ kind: 'contender', id, op: 'update', fields: { articulation } }]);
}

/** Prefers a contender in a phrase, or takes that back. */
export function togglePreference(lineUpId: string, phrase: string, contenderId: string): void {
  const known = listOf(now(), 'preference').find(
    (one) => one.lineUpId === lineUpId && one.phrase === phrase && one.contenderId === contenderId,
  );
  edit(known ? 'Take a preference back' : 'Prefer a contender', [
    known
      ? { kind: 'preference', id: known.id, op: 'remove' }
      : {
          ...add('preference', { lineUpId, phrase, contenderId }),
          id: naturalId('preference', lineUpId, phrase, contenderId),
        },
  ]);
}

/** Keeps the answer of a blind round: contenders, best first. */
export function addBlindRound(lineUpId: string, phrase: string, ranking: readonly string[]): void {
  edit('Answer a blind round', [add('blindRound', { lineUpId, phrase, ranking: ranking.join('|') })]);
}

/** Forgets the blind rounds of a line-up. */
export function forgetBlindRounds(lineUpId: string): void {
  const own = listOf(now(), 'blindRound').filter((one) => one.lineUpId === lineUpId);
  edit(
    'Forget the blind rounds',
    own.map((one) => ({ kind: 'blindRound', id: one.id, op: 'remove' })),
  );
}

export function addOwnPhrase(fields: RecordFields<'ownPhrase'>): string {
  const made = add('ownPhrase', fields);
  edit('Keep a phrase', [made]);
  return made.id;
}

export function removeOwnPhrase(id: string): void {
  edit('Remove a phrase', [{ kind: 'ownPhrase', id, op: 'remove' }]);
}

export function addRemark(fields: RecordFields<'remark'>): void {
  edit('Write a remark', [add('remark', fields)]);
}

export function removeRemark(id: string): void {
  edit('Remove a remark', [{ kind: 'remark', id, op: 'remove' }]);
}

/** What sounds are scored by, in order. */
export function criteriaOf(list: readonly Item<'criterion'>[]): Item<'criterion'>[] {
  return [...list].sort((a, b) => a.place - b.place || (a.id < b.id ? -1 : 1));
}

export function addCriterion(name: string): void {
  const last = Math.max(0, ...listOf(now(), 'criterion').map((one) => one.place));
  edit('Add a criterion', [add('criterion', { name, weight: 1, place: last + 1 })]);
}

export function weighCriterion(id: string, weight: number): void {
  edit('Weigh a criterion', [{ kind: 'criterion', id, op: 'update', fields: { weight } }], `weight ${id}`);
}

/** Takes a criterion away with all scores given by it. */
export function removeCriterion(id: string): void {
  const scores = listOf(now(), 'score').filter((one) => one.criterionId === id);
  edit('Remove a criterion', [
    ...scores.map((one) => ({ kind: 'score' as const, id: one.id, op: 'remove' as const })),
    { kind: 'criterion', id, op: 'remove' },
  ]);
}

/** Hook: scores of one instrument by criterion id. */
export function useScores(instrumentId: string): ReadonlyMap<string, Item<'score'>> {
  return new Map(
    useList('score')
      .filter((one) => one.instrumentId === instrumentId)
      .map((one) => [one.criterionId, one]),
  );
}

/** Gives a score, 0 … 10. */
export function giveScore(instrumentId: string, criterionId: string, score: number): void {
  const known = listOf(now(), 'score').find(
    (one) => one.instrumentId === instrumentId && one.criterionId === criterionId,
  );
  edit(
    'Give a score',
    [
      known
        ? { kind: 'score', id: known.id, op: 'update', fields: { score } }
        : {
            ...add('score', { instrumentId, criterionId, score }),
            id: naturalId('score', criterionId, instrumentId),
          },
    ],
    `score ${instrumentId} ${criterionId}`,
  );
}

export function addGap(name: string): void {
  edit('Note a gap', [add('gap', { name, filledBy: '' })]);
}

/** Says which instrument fills a gap; empty opens it again. */
export function fillGap(id: string, filledBy: string): void {
  edit(filledBy ? 'Fill a gap' : 'Open a gap again', [
    { kind: 'gap', id, op: 'update', fields: { filledBy } },
  ]);
}

export function removeGap(id: string): void {
  edit('Remove a gap', [{ kind: 'gap', id, op: 'remove' }]);
}

/** Gives a track the tone of some bands, in place of those it has. */
export function giveTone(trackId: string, bands: readonly EqBand[], label = 'Tone of the track'): void {
  const before = ownedBy(now(), 'eqBand', trackId).filter(({ positionId }) => positionId === '');
  edit(label, [
    ...before.map((one) => ({ kind: 'eqBand' as const, id: one.id, op: 'remove' as const })),
    ...bands.map((band) => add('eqBand', { ...band, trackId, positionId: '', active: true })),
  ]);
}
