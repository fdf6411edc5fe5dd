import { useState } from 'react';
import { X } from 'lucide-react';
import type { InstrumentSummary, LibrarySummary } from '#api/index.ts';
import { weightedScore } from '#core/listen/index.ts';
import { useList } from '../../state/documents.ts';
import { useLibraries } from '../../state/libraries.ts';
import { addContender, addGap, criteriaOf, fillGap, removeGap } from '../../state/listen.ts';
import { useMayEdit } from '../../state/session.ts';
import { marksOf } from '../../state/shelf.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle } from '../../ui/heading.tsx';
import { FamilyTag } from '../../ui/tag.tsx';
import { useListen } from './listen-state.ts';

const RANK: Record<string, number> = { keep: 0, reserve: 1, pass: 2, '': 3 };

/** Everything the studio has judged, and what it still lacks. */
export function Verdicts() {
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_280px] overflow-hidden">
      <div className="min-h-0 overflow-auto px-4 py-3">
        <Judged />
      </div>
      <aside aria-label="Gaps" className="min-h-0 overflow-auto border-l border-rule p-3.5">
        <Gaps />
      </aside>
    </div>
  );
}

function useOwnedById(): ReadonlyMap<string, { instrument: InstrumentSummary; library: LibrarySummary }> {
  const libraries = useLibraries((state) => state.libraries) ?? [];
  return new Map(
    libraries.flatMap((library) =>
      library.instruments.map((instrument) => [instrument.id, { instrument, library }] as const),
    ),
  );
}

function Judged() {
  const known = useOwnedById();
  const marks = marksOf(useList('shelfMark'));
  const criteria = criteriaOf(useList('criterion'));
  const scores = useList('score');
  const gaps = useList('gap');
  const mayEdit = useMayEdit();
  const ids = [
    ...new Set([...marks.values()].filter((mark) => mark.verdict !== '').map((mark) => mark.instrumentId)),
    ...new Set(scores.map((one) => one.instrumentId)),
  ];
  const lines = [...new Set(ids)]
    .flatMap((id) => {
      const owned = known.get(id);
      if (!owned) return [];
      const mark = marks.get(id);
      const own = new Map(
        scores.filter((one) => one.instrumentId === id).map((one) => [one.criterionId, one.score]),
      );
      return [
        {
          id,
          ...owned,
          verdict: mark?.verdict ?? '',
          note: mark?.note ?? '',
          replaces: known.get(mark?.replaces ?? '')?.instrument.name,
          fills: gaps.filter((gap) => gap.filledBy === id).map((gap) => gap.name),
          own,
          mean: weightedScore(criteria, (criterion) => own.get(criterion)),
        },
      ];
    })
    .sort(
      (a, b) =>
        RANK[a.verdict] - RANK[b.verdict] ||
        (b.mean ?? -1) - (a.mean ?? -1) ||
        a.instrument.name.localeCompare(b.instrument.name),
    );
  return (
    <>
      <h2 className="font-serif text-lg font-semibold">Verdicts</h2>
      {lines.length === 0 ? (
        <p className="mt-2 text-ink-2">
          Nothing is judged yet. Put sounds side by side in a line-up, listen, and give scores and a verdict
          at the right.
        </p>
      ) : (
        <table className="mt-2 w-full border-collapse">
          <thead>
            <tr className="border-b border-rule text-left text-ink-3">
              <th scope="col" className="py-1 font-normal">
                Instrument
              </th>
              <th scope="col" className="py-1 font-normal">
                Verdict
              </th>
              {criteria.map((one) => (
                <th key={one.id} scope="col" className="py-1 pr-2 text-right font-normal">
                  {one.name}
                </th>
              ))}
              <th scope="col" className="py-1 pr-3 text-right font-normal">
                Mean
              </th>
              <th scope="col" className="py-1 font-normal">
                For what
              </th>
              <th scope="col">
                <span className="sr-only">Again</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {lines.map((line) => (
              <tr key={line.id} className="border-b border-rule-soft align-top">
                <th scope="row" className="py-1 pr-2 text-left font-normal">
                  <FamilyTag family={line.instrument.family} /> {line.instrument.name}
                  <div className="text-xs text-ink-3">{line.library.name}</div>
                </th>
                <td className="py-1 pr-2 font-serif italic">{line.verdict || '—'}</td>
                {criteria.map((one) => (
                  <td key={one.id} className="py-1 pr-2 text-right">
                    {line.own.get(one.id) ?? '–'}
                  </td>
                ))}
                <td className="py-1 pr-3 text-right font-semibold">{line.mean?.toFixed(1) ?? '–'}</td>
                <td className="max-w-64 py-1 text-ink-2">
                  {line.fills.length > 0 && <div>fills: {line.fills.join(', ')}</div>}
                  {line.replaces && <div>replaces: {line.replaces}</div>}
                  {line.note && <div className="truncate">{line.note}</div>}
                </td>
                <td className="py-1 text-right">
                  <Button
                    look="quiet"
                    className="py-0"
                    disabled={!mayEdit}
                    onClick={() => {
                      addContender(line.id, '', useListen.getState().lineUpId);
                      useListen.setState({ surface: 'line-up' });
                    }}
                  >
                    Listen again
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

function Gaps() {
  const gaps = [...useList('gap')].sort((a, b) => a.name.localeCompare(b.name));
  const known = useOwnedById();
  const mayEdit = useMayEdit();
  const [name, setName] = useState('');
  const open = gaps.filter((gap) => gap.filledBy === '');
  const filled = gaps.filter((gap) => gap.filledBy !== '');
  const options = [...known.values()].map(({ instrument, library }) => ({
    value: instrument.id,
    text: `${instrument.name} · ${library.name}`,
  }));
  return (
    <>
      <GroupTitle>Open gaps</GroupTitle>
      {open.length === 0 && (
        <p className="text-ink-2">
          {gaps.length === 0 ? 'Note what the studio still lacks; a contender can then fill it.' : 'None.'}
        </p>
      )}
      <ul>
        {[...open, ...filled].map((gap) => (
          <li key={gap.id} className="border-b border-rule-soft py-1">
            <div className="flex items-center gap-1">
              <span className={`min-w-0 flex-1 ${gap.filledBy ? 'text-ink-2' : 'font-semibold'}`}>
                {gap.name}
              </span>
              {mayEdit && (
                <button
                  type="button"
                  aria-label={`Remove the gap ${gap.name}`}
                  onClick={() => removeGap(gap.id)}
                  className="grid size-6 place-items-center text-ink-3 hover:text-warm"
                >
                  <X size={12} aria-hidden />
                </button>
              )}
            </div>
            <Choice
              label="Filled by"
              className="max-w-44"
              disabled={!mayEdit}
              value={known.has(gap.filledBy) ? gap.filledBy : ''}
              onChange={(event) => fillGap(gap.id, event.target.value)}
              options={[{ value: '', text: 'still open' }, ...options]}
            />
          </li>
        ))}
      </ul>
      {mayEdit && (
        <form
          className="mt-2 flex gap-1.5"
          onSubmit={(event) => {
            event.preventDefault();
            if (name.trim() === '') return;
            addGap(name.trim());
            setName('');
          }}
        >
          <input
            aria-label="A gap to note"
            placeholder="For example: soft low choir"
            className="h-7 min-w-0 flex-1 rounded-md border border-rule bg-raised px-1.5 placeholder:text-ink-3"
            maxLength={120}
            value={name}
            onChange={(event) => setName(event.target.value)}
            onKeyDown={(event) => event.stopPropagation()}
          />
          <Button type="submit" disabled={name.trim() === ''}>
            Note
          </Button>
        </form>
      )}
    </>
  );
}
