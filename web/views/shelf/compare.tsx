import { useState } from 'react';
import type { InstrumentSummary, LibrarySummary } from '#api/index.ts';
import { FAMILIES } from '#core/catalogue/index.ts';
import { useList } from '../../state/documents.ts';
import { useLibraries } from '../../state/libraries.ts';
import { marksOf } from '../../state/shelf.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { instrumentFacts } from './instrument-facts.ts';
import { libraryFacts } from './library-facts.ts';
import { useShelf } from './shelf-state.ts';

const KINDS = [
  { value: 'instruments', text: 'instruments' },
  { value: 'libraries', text: 'libraries' },
];

/** What is put side by side: a name to choose it by, facts to read, and the techniques it has. */
interface Side {
  id: string;
  name: string;
  facts: readonly { name: string; text: string }[];
  techniques: readonly string[];
  text: string;
}

/** The facts of two instruments or libraries side by side, and which techniques only one of them has. */
export function Compare({ kind }: { kind: 'instruments' | 'libraries' }) {
  const libraries = useLibraries((state) => state.libraries) ?? [];
  const marks = marksOf(useList('shelfMark'));
  const selected = useShelf((state) => state.selected);
  const sides =
    kind === 'libraries'
      ? libraries.map(sideOfLibrary)
      : libraries
          .flatMap((library) => library.instruments.map((instrument) => ({ instrument, library })))
          .sort((a, b) => inScore(a.instrument, b.instrument))
          .map(({ instrument, library }): Side => {
            const mark = marks.get(instrument.id);
            return {
              id: instrument.id,
              name: `${instrument.name} · ${library.name}`,
              facts: instrumentFacts(instrument, library, mark?.verdict ?? ''),
              techniques: instrument.articulations.map(({ name }) => name),
              text: mark?.note ?? '',
            };
          });
  const start = Math.max(
    0,
    sides.findIndex(({ id }) => id === selected?.id),
  );
  return <SideBySide key={kind} kind={kind} sides={sides} start={start} />;
}

const inScore = (a: InstrumentSummary, b: InstrumentSummary) =>
  (FAMILIES as readonly string[]).indexOf(a.family) - (FAMILIES as readonly string[]).indexOf(b.family) ||
  a.name.localeCompare(b.name);

function sideOfLibrary(library: LibrarySummary): Side {
  return {
    id: library.id,
    name: library.name,
    facts: libraryFacts(library),
    techniques: [
      ...new Set(library.instruments.flatMap((instrument) => instrument.articulations.map((a) => a.id))),
    ],
    text: library.facts.text,
  };
}

function SideBySide({
  kind,
  sides,
  start,
}: {
  kind: 'instruments' | 'libraries';
  sides: readonly Side[];
  start: number;
}) {
  const [leftId, setLeft] = useState(sides[start]?.id ?? '');
  const [rightId, setRight] = useState((sides[start + 1] ?? sides[start - 1])?.id ?? '');
  const left = sides.find(({ id }) => id === leftId);
  const right = sides.find(({ id }) => id === rightId);
  const options = sides.map(({ id, name }) => ({ value: id, text: name }));
  const one = kind === 'libraries' ? 'library' : 'instrument';
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <table className="w-full table-fixed border-collapse">
        <thead>
          <tr className="align-bottom">
            <th className="w-32 pr-3 pb-2 text-left font-normal">
              <Button onClick={() => useShelf.setState({ comparing: undefined })}>Back to all</Button>
              <Choice
                label="What is compared"
                hideLabel
                className="mt-1.5 w-full"
                value={kind}
                options={KINDS}
                onChange={(event) => useShelf.setState({ comparing: event.target.value as typeof kind })}
              />
            </th>
            <th className="pr-4 pb-2 text-left font-normal">
              <Choice
                label={`Left ${one}`}
                hideLabel
                className="w-full"
                value={leftId}
                options={options}
                onChange={(event) => setLeft(event.target.value)}
              />
            </th>
            <th className="pb-2 text-left font-normal">
              <Choice
                label={`Right ${one}`}
                hideLabel
                className="w-full"
                value={rightId}
                options={options}
                onChange={(event) => setRight(event.target.value)}
              />
            </th>
          </tr>
        </thead>
        <tbody>
          {(left?.facts ?? []).map(({ name, text }, i) => {
            const other = right?.facts[i]?.text ?? '—';
            const differs = other !== text ? 'font-semibold' : '';
            return (
              <tr key={name} className="border-b border-rule-soft align-top">
                <th scope="row" className="py-1 text-left font-normal text-ink-3">
                  {name}
                </th>
                <td className={`py-1 pr-4 ${differs}`}>{text}</td>
                <td className={`py-1 ${differs}`}>{other}</td>
              </tr>
            );
          })}
          <tr className="border-b border-rule-soft align-top">
            <th scope="row" className="py-1 text-left font-normal text-ink-3">
              Only here
            </th>
            <td className="py-1 pr-4 font-serif italic">{onlyIn(left, right)}</td>
            <td className="py-1 font-serif italic">{onlyIn(right, left)}</td>
          </tr>
          <tr className="align-top">
            <th scope="row" className="py-1 text-left font-normal text-ink-3">
              In a word
            </th>
            <td className="py-1 pr-4 text-ink-2">{left?.text || '—'}</td>
            <td className="py-1 text-ink-2">{right?.text || '—'}</td>
          </tr>
        </tbody>
      </table>
    </div>
  );
}

function onlyIn(one: Side | undefined, other: Side | undefined): string {
  const own = (one?.techniques ?? []).filter((name) => !other?.techniques.includes(name));
  return own.length > 0 ? own.join(', ') : '—';
}
