import { naturalId, type ArticulationSummary } from '#api/index.ts';
import type { Translation } from '#core/keymap/index.ts';
import { edit, useList, type Item } from '../../state/documents.ts';
import type { Edit } from '../../state/diff.ts';
import { useVocabulary } from '../../state/keymaps.ts';
import { toNumber } from '../../ui/numbers.ts';
import { wholeWithin } from '../../ui/numbers.ts';
import { Typed } from '../../ui/typed.tsx';
import type { LookedAt } from './looked-at.ts';

/** An instrument's own articulations in the house's words: guessed when it was brought in, corrected here. */
export function TranslationPanel({
  looked: { instrument },
  mayEdit,
}: {
  looked: LookedAt;
  mayEdit: boolean;
}) {
  const all = useList('translation').filter(({ instrumentId }) => instrumentId === instrument.id);
  return (
    <>
      <h2 className="font-serif text-xl font-semibold">In the house’s words</h2>
      <p className="text-ink-2">
        What {instrument.name} play, and what it is to the house. Several may be one word: they sound
        together, or share the velocities.
      </p>
      <ul className="mt-1">
        {instrument.articulations.map((articulation) => (
          <li key={articulation.id} className="border-b border-rule-soft py-1">
            <TranslationRow
              instrumentId={instrument.id}
              articulation={articulation}
              own={all.filter((one) => one.articulation === articulation.id)}
              mayEdit={mayEdit}
            />
          </li>
        ))}
      </ul>
    </>
  );
}

function TranslationRow({
  instrumentId,
  articulation,
  own,
  mayEdit,
}: {
  instrumentId: string;
  articulation: ArticulationSummary;
  own: readonly Item<'translation'>[];
  mayEdit: boolean;
}) {
  const vocabulary = useVocabulary();
  const { id, name } = articulation;
  const guess = vocabulary.guess(name);
  const reason =
    own.length > 0
      ? 'as the house says'
      : guess?.term.id === id.replace(/ \d+$/, '')
        ? `its name says “${guess.hint}”`
        : 'as it was brought in';
  const plain: Omit<Translation, 'articulation'> = {
    term: id,
    levelDb: 0,
    velocityLow: 1,
    velocityHigh: 127,
  };
  const rows: (Omit<Translation, 'articulation'> & { recordId?: string })[] =
    own.length > 0 ? own.map((one) => ({ ...one, recordId: one.id })) : [plain];
  const add = (fields: Omit<Translation, 'articulation'>): Edit => ({
    kind: 'translation',
    id: naturalId('translation', instrumentId, id, fields.term),
    op: 'add',
    fields: { ...fields, instrumentId, articulation: id },
  });
  const label = `${name} in the house’s words`;
  const set = (row: (typeof rows)[number], fields: Partial<Translation>) => {
    const { recordId, term, levelDb, velocityLow, velocityHigh } = { ...row, ...fields };
    const next = { term, levelDb, velocityLow, velocityHigh };
    const isPlain =
      rows.length === 1 && term === id && levelDb === 0 && velocityLow === 1 && velocityHigh === 127;
    if (recordId === undefined) edit(label, isPlain ? [] : [add(next)]);
    else if (isPlain) edit(label, [{ kind: 'translation', id: recordId, op: 'remove' }]);
    else if (fields.term !== undefined)
      edit(label, [{ kind: 'translation', id: recordId, op: 'remove' }, add(next)]);
    else edit(label, [{ kind: 'translation', id: recordId, op: 'update', fields }]);
  };
  const taken = new Set(rows.map(({ term }) => term));
  const addWord = (term: string) => {
    // The word it has so far is kept beside the new one.
    const first = own.length > 0 ? [] : [add(plain)];
    edit(label, [...first, add({ ...plain, term })]);
  };
  return (
    <>
      <div className="flex items-baseline justify-between gap-2">
        <b className="truncate" title={name}>
          {name}
        </b>
        <span className="shrink-0 text-xs text-ink-3">{reason}</span>
      </div>
      {rows.map((row) => (
        <div key={row.term} className="mt-0.5 flex flex-wrap items-start gap-1">
          <select
            aria-label={`What ${name} is to the house`}
            className="h-6 min-w-0 flex-1 basis-full rounded-md border border-rule bg-raised text-sm"
            value={row.term}
            disabled={!mayEdit}
            onChange={(event) => set(row, { term: event.target.value })}
          >
            {!vocabulary.terms.some((term) => term.id === row.term) && (
              <option value={row.term}>{row.term}</option>
            )}
            {vocabulary.terms
              .filter((term) => term.id === row.term || !taken.has(term.id))
              .map((term) => (
                <option key={term.id} value={term.id}>
                  {term.name}
                </option>
              ))}
          </select>
          <Typed
            label={`Level of ${name}`}
            width="w-11"
            value={String(row.levelDb).replace('-', '−')}
            parse={(text) => {
              const value = toNumber(text);
              return value !== undefined && value >= -60 && value <= 12
                ? value
                : 'A level from −60 to 12 dB.';
            }}
            disabled={!mayEdit}
            onCommit={(levelDb) => set(row, { levelDb })}
          />
          <span className="pt-1 text-ink-2">dB, velocity</span>
          <Typed
            label={`Lowest velocity of ${name}`}
            width="w-10"
            value={String(row.velocityLow)}
            parse={wholeWithin(1, 127)}
            disabled={!mayEdit}
            onCommit={(value) =>
              set(row, { velocityLow: value, velocityHigh: Math.max(value, row.velocityHigh) })
            }
          />
          <span className="pt-1 text-ink-2">to</span>
          <Typed
            label={`Highest velocity of ${name}`}
            width="w-10"
            value={String(row.velocityHigh)}
            parse={wholeWithin(1, 127)}
            disabled={!mayEdit}
            onCommit={(value) =>
              set(row, { velocityHigh: value, velocityLow: Math.min(value, row.velocityLow) })
            }
          />
        </div>
      ))}
      <div className="flex items-center justify-between">
        <select
          aria-label={`What else ${name} is to the house`}
          className="min-h-6 rounded-md border border-transparent bg-transparent text-sm text-cool hover:border-rule"
          value=""
          disabled={!mayEdit}
          onChange={(event) => event.target.value && addWord(event.target.value)}
        >
          <option value="">and also …</option>
          {vocabulary.terms
            .filter((term) => !taken.has(term.id))
            .map((term) => (
              <option key={term.id} value={term.id}>
                {term.name}
              </option>
            ))}
        </select>
        {own.length > 0 && (
          <button
            type="button"
            disabled={!mayEdit}
            className="min-h-6 text-cool underline disabled:opacity-50"
            onClick={() =>
              edit(
                label,
                own.map((one): Edit => ({ kind: 'translation', id: one.id, op: 'remove' })),
              )
            }
          >
            As brought in
          </button>
        )}
      </div>
    </>
  );
}
