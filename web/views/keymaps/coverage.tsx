import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import type { InstrumentSummary } from '#api/index.ts';
import { coverageOf, type CoverageCell } from '#core/keymap/index.ts';
import type { Family } from '#core/catalogue/index.ts';
import { useDocuments, useList } from '../../state/documents.ts';
import { translationsOf, useVocabulary } from '../../state/keymaps.ts';
import { useLibraries } from '../../state/libraries.ts';
import { addFilledLineUp } from '../../state/listen.ts';
import { useMayEdit } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { Pane, Panes } from '../../ui/panes.tsx';

const SIGN: Record<CoverageCell['state'], string> = { own: '●', 'stand-in': '≈', missing: '✕', none: '·' };
const TONE: Record<CoverageCell['state'], string> = {
  own: 'text-ink-2',
  'stand-in': 'text-straw',
  missing: 'text-warm',
  none: 'text-ink-3',
};
const ALL = 'all';
const TEMPLATE = 'template';

/** Columns of the table: instruments with the name people know them by. */
interface Column {
  instrument: InstrumentSummary;
  name: string;
  library: string;
}

/** Techniques × instruments: who has what of their own, what stands in, and what is missing. */
export function CoverageView() {
  const vocabulary = useVocabulary();
  const libraries = useLibraries((state) => state.libraries);
  const records = useDocuments((state) => state.records);
  const tracks = useList('track');
  const marks = useList('mark');
  const [of, setOf] = useState(TEMPLATE);
  const [search, setSearch] = useState('');
  const [only, setOnly] = useState<'' | 'gaps' | 'missing'>('');
  const [at, setAt] = useState<{ term: string; instrumentId: string }>();
  const columns = useMemo(() => columnsOf(of, libraries, tracks), [of, libraries, tracks]);
  const coverage = useMemo(
    () =>
      coverageOf(
        columns.map(({ instrument }) => ({
          id: instrument.id,
          family: instrument.family as Family,
          articulations: instrument.articulations,
          translations: translationsOf(records, instrument.id),
        })),
        vocabulary,
        of === TEMPLATE ? [...new Set(marks.map(({ articulation }) => articulation))] : [],
      ),
    [columns, vocabulary, records, of, marks],
  );
  const rows = coverage.terms
    .map((term, i) => ({ term, cells: coverage.rows[i], counts: coverage.counts[i] }))
    .filter(({ term }) => term.includes(search.trim().toLowerCase()))
    .filter(({ counts }) =>
      only === 'missing' ? counts.missing > 0 : only === '' || counts.missing + counts.standIn > 0,
    );
  const total = coverage.counts.reduce(
    (sum, one) => ({
      own: sum.own + one.own,
      standIn: sum.standIn + one.standIn,
      missing: sum.missing + one.missing,
    }),
    { own: 0, standIn: 0, missing: 0 },
  );
  const chosen =
    at && columns.some(({ instrument }) => instrument.id === at.instrumentId)
      ? { ...at, cell: cellAt(coverage, columns, at) }
      : undefined;
  return (
    <Panes id="coverage" names={['Border of the side pane']}>
      <Pane id="table" least={380}>
        <div className="flex h-full min-h-0 flex-col">
          <div className="flex flex-wrap items-center gap-2 border-b border-rule px-3 py-1.5">
            <Choice
              label="Instruments"
              hideLabel
              value={of}
              onChange={(event) => setOf(event.target.value)}
              options={[
                { value: TEMPLATE, text: 'of the template' },
                { value: ALL, text: 'of all libraries' },
                ...(libraries ?? []).map(({ id, name }) => ({ value: id, text: name })),
              ]}
            />
            <Choice
              label="Rows"
              hideLabel
              value={only}
              onChange={(event) => setOnly(event.target.value as typeof only)}
              options={[
                { value: '', text: 'all techniques' },
                { value: 'gaps', text: 'with gaps' },
                { value: 'missing', text: 'missing somewhere' },
              ]}
            />
            <input
              type="search"
              aria-label="Find a technique"
              placeholder="Find a technique"
              className="h-7 w-40 rounded-sm border border-rule bg-raised px-2"
              value={search}
              onChange={(event) => setSearch(event.target.value)}
            />
            <span className="min-w-0 flex-1 truncate text-right text-ink-2" aria-live="polite">
              <span className={TONE.own}>● {total.own} own</span>{' '}
              <span className={TONE['stand-in']}>≈ {total.standIn} stand in</span>{' '}
              <span className={TONE.missing}>✕ {total.missing} missing</span>
            </span>
          </div>
          {columns.length === 0 ? (
            <p className="p-6 text-ink-2">
              {of === TEMPLATE
                ? 'No track of the template has an instrument yet. Choose a library above to see what it holds.'
                : 'There is nothing here yet.'}
            </p>
          ) : rows.length === 0 ? (
            <p className="p-6 text-ink-2">No technique fits. Take the filter back to see all.</p>
          ) : (
            <div className="min-h-0 flex-1 overflow-auto" tabIndex={0} aria-label="Coverage, scrollable">
              <table className="border-separate border-spacing-0 text-sm">
                <caption className="sr-only">Techniques by instrument</caption>
                <thead>
                  <tr aria-hidden>
                    <td className="sticky top-0 left-0 z-20 h-6 bg-sheet" />
                    {librariesOver(columns).map(({ library, count }, i) => (
                      <td
                        key={i}
                        colSpan={count}
                        title={library}
                        className="sticky top-0 z-10 h-6 border-l border-rule bg-sheet px-1 text-left text-xs text-ink-3"
                      >
                        <span className="block truncate" style={{ maxWidth: count * 24 }}>
                          {library}
                        </span>
                      </td>
                    ))}
                    <td className="sticky top-0 z-10 h-6 bg-sheet" />
                  </tr>
                  <tr>
                    <th
                      scope="col"
                      className="sticky top-6 left-0 z-20 min-w-[132px] border-b border-rule bg-sheet px-3 text-left align-bottom font-normal text-ink-3"
                    >
                      technique
                    </th>
                    {columns.map(({ instrument, name, library }) => (
                      <th
                        key={instrument.id}
                        scope="col"
                        className="sticky top-6 z-10 h-[92px] border-b border-rule bg-sheet px-0.5 pb-1 align-bottom font-normal"
                      >
                        <span
                          className="mx-auto block max-h-[86px] overflow-hidden text-left whitespace-nowrap [writing-mode:vertical-rl] rotate-180"
                          title={`${name}, ${library}`}
                        >
                          {name}
                        </span>
                      </th>
                    ))}
                    <th
                      scope="col"
                      className="sticky top-6 z-10 border-b border-rule bg-sheet px-2 text-right align-bottom font-normal text-ink-3"
                    >
                      has it
                    </th>
                  </tr>
                </thead>
                <tbody>
                  {rows.map(({ term, cells, counts }) => (
                    <tr key={term}>
                      <th
                        scope="row"
                        className="sticky left-0 z-10 border-b border-rule-soft bg-sheet px-3 text-left font-normal whitespace-nowrap"
                      >
                        {vocabulary.term(term).name}
                      </th>
                      {cells.map((cell, i) => {
                        const { instrument, name } = columns[i];
                        const isAt = at?.term === term && at.instrumentId === instrument.id;
                        const words = wordsFor(cell, (id) => vocabulary.term(id).name);
                        return (
                          <td key={instrument.id} className="border-b border-rule-soft p-0 text-center">
                            <button
                              type="button"
                              aria-pressed={isAt}
                              aria-label={`${vocabulary.term(term).name}, ${name}: ${words}`}
                              title={`${name}: ${words}`}
                              className={`h-6 min-w-6 px-1 ${TONE[cell.state]} ${isAt ? 'bg-cool-tint outline outline-cool' : 'hover:bg-ground'}`}
                              onClick={() => setAt({ term, instrumentId: instrument.id })}
                            >
                              {SIGN[cell.state]}
                            </button>
                          </td>
                        );
                      })}
                      <td className="border-b border-rule-soft px-2 text-right whitespace-nowrap text-ink-2">
                        {counts.own} of {counts.own + counts.standIn + counts.missing}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          )}
          <p className="border-t border-rule px-3 py-1 text-xs text-ink-2">
            ● own recordings · ≈ another technique stands in · ✕ missing · “·” not a technique of the family
          </p>
        </div>
      </Pane>
      <Pane id="cell" size={288} least={200}>
        <aside aria-label="Chosen place" className="h-full overflow-auto p-3.5">
          {chosen ? (
            <CellPane
              term={chosen.term}
              cell={chosen.cell}
              column={columns.find(({ instrument }) => instrument.id === chosen.instrumentId) as Column}
            />
          ) : (
            <p className="text-ink-2">
              Choose a place in the table: what plays there, and who could fill a gap, is told here.
            </p>
          )}
        </aside>
      </Pane>
    </Panes>
  );
}

function cellAt(
  coverage: ReturnType<typeof coverageOf>,
  columns: readonly Column[],
  at: { term: string; instrumentId: string },
): CoverageCell {
  const row = coverage.terms.indexOf(at.term);
  const column = columns.findIndex(({ instrument }) => instrument.id === at.instrumentId);
  return coverage.rows[row]?.[column] ?? { state: 'missing' };
}

function columnsOf(
  of: string,
  libraries: ReturnType<typeof useLibraries.getState>['libraries'],
  tracks: readonly { instrumentId: string | null; name: string }[],
): Column[] {
  const all = (libraries ?? []).flatMap((library) =>
    library.instruments.map((instrument) => ({
      instrument,
      name: instrument.name,
      library: library.name,
      id: library.id,
    })),
  );
  if (of !== TEMPLATE) return all.filter(({ id }) => of === ALL || id === of);
  const seen = new Set<string>();
  return tracks.flatMap(({ instrumentId, name }) => {
    const column = all.find(({ instrument }) => instrument.id === instrumentId);
    if (!column || seen.has(column.instrument.id)) return [];
    seen.add(column.instrument.id);
    return [{ ...column, name }];
  });
}

/** Neighbouring columns of one library. */
function librariesOver(columns: readonly Column[]): { library: string; count: number }[] {
  const groups: { library: string; count: number }[] = [];
  for (const { library } of columns) {
    const last = groups.at(-1);
    if (last?.library === library) last.count++;
    else groups.push({ library, count: 1 });
  }
  return groups;
}

function wordsFor(cell: CoverageCell, nameOf: (id: string) => string): string {
  switch (cell.state) {
    case 'own':
      return `own, ${cell.layers} ${cell.layers === 1 ? 'layer' : 'layers'} × ${cell.takes} ${cell.takes === 1 ? 'take' : 'takes'}`;
    case 'stand-in':
      return `${nameOf(cell.standIn ?? '')} stands in (${cell.distance})`;
    case 'missing':
      return 'missing';
    case 'none':
      return 'not a technique of this family';
  }
}

/** What is at one place of the table, and who has what is missing there. */
function CellPane({ term, cell, column }: { term: string; cell: CoverageCell; column: Column }) {
  const vocabulary = useVocabulary();
  const libraries = useLibraries((state) => state.libraries);
  const records = useDocuments((state) => state.records);
  const mayEdit = useMayEdit();
  const navigate = useNavigate();
  const { instrument, name } = column;
  const title = vocabulary.term(term).name;
  const ownIn = (one: InstrumentSummary) => {
    const [id] = coverageOf(
      [
        {
          id: one.id,
          family: one.family as Family,
          articulations: one.articulations,
          translations: translationsOf(records, one.id),
        },
      ],
      vocabulary,
      [term],
    ).rows.flat();
    return id;
  };
  const contenders = (libraries ?? [])
    .flatMap((library) => library.instruments.map((one) => ({ one, library: library.name })))
    .filter(({ one }) => one.id !== instrument.id && one.family === instrument.family)
    .filter(({ one }) => one.articulations.some(({ id }) => id === term) || rowHas(ownIn(one)));
  const hear = () => {
    const lineUpId = addFilledLineUp(`${title} for ${name}`, [
      ...(cell.state === 'own' ? [{ instrumentId: instrument.id, articulation: term }] : []),
      ...(cell.standIn === undefined ? [] : [{ instrumentId: instrument.id, articulation: cell.standIn }]),
      ...contenders.slice(0, 8).map(({ one }) => ({ instrumentId: one.id, articulation: term })),
    ]);
    void navigate(`/listen?line-up=${lineUpId}`);
  };
  return (
    <>
      <h2 className="font-serif text-xl font-semibold">{title}</h2>
      <p className="text-ink-2">
        {name}: {wordsFor(cell, (id) => vocabulary.term(id).name)}
      </p>
      {cell.state === 'stand-in' || cell.state === 'missing' ? (
        <p className="mt-1">
          In the order of the house,{' '}
          {vocabulary
            .term(term)
            .standIns.slice(0, 4)
            .map((id) => vocabulary.term(id).name)
            .join(', ') || 'nothing'}{' '}
          would stand in.
        </p>
      ) : null}
      <h3 className="mt-4 mb-1 font-serif text-[15px] font-semibold">
        {contenders.length === 0
          ? 'Nobody else of the family has it'
          : `${contenders.length} others of the family have it`}
      </h3>
      <ul>
        {contenders.map(({ one, library }) => (
          <li key={one.id} className="border-b border-rule-soft py-0.5">
            {one.name} <span className="text-ink-3">{library}</span>
          </li>
        ))}
      </ul>
      {contenders.length > 0 && (
        <Button
          look="main"
          className="mt-2"
          disabled={!mayEdit}
          title="Makes a line-up of them: the same phrase by each, at matched loudness"
          onClick={hear}
        >
          Hear them in Listen
        </Button>
      )}
    </>
  );
}

const rowHas = (cell: CoverageCell | undefined) => cell?.state === 'own';
