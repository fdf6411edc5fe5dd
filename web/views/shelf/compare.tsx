import { useState } from 'react';
import type { LibrarySummary } from '#api/index.ts';
import { useLibraries } from '../../state/libraries.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { libraryFacts } from './library-facts.ts';
import { useShelf } from './shelf-state.ts';

/** The facts of two libraries side by side, and which techniques only one of them has. */
export function Compare() {
  const libraries = useLibraries((state) => state.libraries) ?? [];
  const [leftId, setLeft] = useState(libraries[0]?.id ?? '');
  const [rightId, setRight] = useState(libraries[1]?.id ?? '');
  const left = libraries.find((one) => one.id === leftId);
  const right = libraries.find((one) => one.id === rightId);
  const options = libraries.map(({ id, name }) => ({ value: id, text: name }));
  const facts = [left ? libraryFacts(left) : [], right ? libraryFacts(right) : []];
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <table className="w-full table-fixed border-collapse">
        <thead>
          <tr className="align-bottom">
            <th className="w-32 text-left">
              <Button onClick={() => useShelf.setState({ comparing: false })}>Back to all</Button>
            </th>
            <th className="pb-2 text-left font-normal">
              <Choice
                label="Left library"
                hideLabel
                value={leftId}
                options={options}
                onChange={(event) => setLeft(event.target.value)}
              />
            </th>
            <th className="pb-2 text-left font-normal">
              <Choice
                label="Right library"
                hideLabel
                value={rightId}
                options={options}
                onChange={(event) => setRight(event.target.value)}
              />
            </th>
          </tr>
        </thead>
        <tbody>
          {facts[0].map(({ name, text }, i) => {
            const other = facts[1][i]?.text ?? '—';
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
            <td className="py-1 pr-4 text-ink-2">{left?.facts.text}</td>
            <td className="py-1 text-ink-2">{right?.facts.text}</td>
          </tr>
        </tbody>
      </table>
    </div>
  );
}

function onlyIn(one: LibrarySummary | undefined, other: LibrarySummary | undefined): string {
  const techniques = (library: LibrarySummary | undefined) =>
    new Set(library?.instruments.flatMap((instrument) => instrument.articulations.map((a) => a.id)) ?? []);
  const theirs = techniques(other);
  const own = [...techniques(one)].filter((id) => !theirs.has(id));
  return own.length > 0 ? own.join(', ') : '—';
}
