import { useState } from 'react';
import { ARTICULATION_GROUPS, CORE_VOCABULARY, type ArticulationTerm } from '#core/catalogue/index.ts';
import { edit, useDocuments, useList, type Item } from '../../state/documents.ts';
import { useVocabulary } from '../../state/keymaps.ts';
import { useMayEdit } from '../../state/session.ts';
import { naturalId } from '#api/index.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { Pane, Panes } from '../../ui/panes.tsx';

/** The house vocabulary: each technique with how it is written and notated, and what stands in for it. */
export function VocabularyView() {
  const vocabulary = useVocabulary();
  const own = useList('term');
  const mayEdit = useMayEdit();
  const [at, setAt] = useState<string>();
  const [name, setName] = useState('');
  const houseId = useDocuments((state) => state.houseId);
  const id = name.trim().toLowerCase();
  const taken = id !== '' && vocabulary.has(id);
  const add = () => {
    edit('Add a word', [
      {
        kind: 'term',
        id: naturalId('term', houseId ?? '', id),
        op: 'add',
        fields: {
          articulation: id,
          group: 'long',
          tab: id.slice(0, 2),
          written: id.slice(0, 40),
          notated: 'words',
          hints: id,
          standIns: 'long',
        },
      },
    ]);
    setName('');
    setAt(id);
  };
  const term = vocabulary.terms.find((one) => one.id === at);
  return (
    <Panes id="vocabulary" names={['Border of the side pane']}>
      <Pane id="terms" least={380}>
        <div className="h-full overflow-auto" tabIndex={0} aria-label="Vocabulary, scrollable">
          <table className="w-full text-sm">
            <caption className="sr-only">The house vocabulary</caption>
            <thead className="sticky top-0 bg-sheet text-left text-xs text-ink-3">
              <tr>
                {['', 'technique', 'written', 'notated as', 'stands in for it, nearest first'].map((text) => (
                  <th key={text} scope="col" className="border-b border-rule px-2 py-1 font-normal">
                    {text || <span className="sr-only">Tab</span>}
                  </th>
                ))}
              </tr>
            </thead>
            {ARTICULATION_GROUPS.map((group) => (
              <tbody key={group}>
                <tr>
                  <th scope="rowgroup" colSpan={5} className="px-2 pt-2 text-left font-serif font-semibold">
                    {group}
                  </th>
                </tr>
                {vocabulary.terms
                  .filter((one) => one.group === group)
                  .map((one) => (
                    <tr
                      key={one.id}
                      className={`cursor-pointer ${one.id === at ? 'bg-cool-tint' : 'hover:bg-ground'}`}
                      onClick={() => setAt(one.id)}
                    >
                      <td className="border-b border-rule-soft px-2">
                        <span className="block w-7 rounded-sm border border-rule text-center text-xs leading-5 font-semibold">
                          {one.tab}
                        </span>
                      </td>
                      <td className="border-b border-rule-soft px-2">
                        <button type="button" className="min-h-6 text-left" onClick={() => setAt(one.id)}>
                          {one.name}
                        </button>
                        {own.some(({ articulation }) => articulation === one.id) && (
                          <span className="ml-1.5 text-xs text-ink-3">house</span>
                        )}
                      </td>
                      <td className="border-b border-rule-soft px-2 font-serif italic">{one.written}</td>
                      <td className="border-b border-rule-soft px-2 text-ink-2">{one.notated}</td>
                      <td className="border-b border-rule-soft px-2 text-ink-2">
                        {one.standIns.join(', ') || '—'}
                      </td>
                    </tr>
                  ))}
              </tbody>
            ))}
          </table>
        </div>
      </Pane>
      <Pane id="term" size={288} least={200}>
        <aside aria-label="Word" className="h-full overflow-auto p-3.5">
          <GroupTitle>Add a word of the house</GroupTitle>
          <form
            className="flex gap-1.5"
            onSubmit={(event) => {
              event.preventDefault();
              if (id !== '' && !taken) add();
            }}
          >
            <input
              aria-label="New word"
              className="h-7 min-w-0 flex-1 rounded-sm border border-rule bg-raised px-2"
              maxLength={60}
              disabled={!mayEdit}
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
            <Button type="submit" disabled={!mayEdit || id === '' || taken}>
              Add
            </Button>
          </form>
          <div role="alert">
            {taken && <Notice tone="straw">“{id}” is in the vocabulary already.</Notice>}
          </div>
          {term ? (
            <TermForm
              key={term.id}
              term={term}
              own={own.find(({ articulation }) => articulation === term.id)}
              mayEdit={mayEdit}
            />
          ) : (
            <p className="mt-3 text-ink-2">
              Parts speak these words whatever library plays them. Choose one to see or change how it is
              written and what stands in for it.
            </p>
          )}
        </aside>
      </Pane>
    </Panes>
  );
}

type Fields = Omit<Item<'term'>, 'id'>;

/** One word: what of it the house may decide. */
function TermForm({
  term,
  own,
  mayEdit,
}: {
  term: ArticulationTerm;
  own: Item<'term'> | undefined;
  mayEdit: boolean;
}) {
  const houseId = useDocuments((state) => state.houseId);
  const isCore = CORE_VOCABULARY.terms.some(({ id }) => id === term.id);
  const set = (fields: Partial<Fields>) => {
    const id = own?.id ?? naturalId('term', houseId ?? '', term.id);
    const all: Fields = {
      articulation: term.id,
      group: term.group,
      tab: term.tab,
      written: term.written,
      notated: term.notated,
      hints: term.hints.join(','),
      standIns: term.standIns.join('|'),
      ...fields,
    };
    edit(`Word “${term.name}”`, [
      own ? { kind: 'term', id, op: 'update', fields } : { kind: 'term', id, op: 'add', fields: { ...all } },
    ]);
  };
  return (
    <>
      <h2 className="mt-4 font-serif text-xl font-semibold">{term.name}</h2>
      <div className="mt-1 flex flex-col gap-1.5">
        <Choice
          label="Group"
          value={term.group}
          disabled={!mayEdit || isCore}
          title={isCore ? 'The core list decides how its words behave in time' : 'How it behaves in time'}
          onChange={(event) => set({ group: event.target.value as ArticulationTerm['group'] })}
          options={ARTICULATION_GROUPS.map((value) => ({ value, text: value }))}
        />
        <Text
          label="Tab"
          value={term.tab}
          most={2}
          least={1}
          disabled={!mayEdit}
          onCommit={(tab) => set({ tab })}
        />
        <Text
          label="Written"
          value={term.written}
          most={40}
          disabled={!mayEdit}
          onCommit={(written) => set({ written })}
        />
        <Text
          label="Notated as"
          value={term.notated}
          most={80}
          disabled={!mayEdit}
          onCommit={(notated) => set({ notated })}
        />
        <Text
          label="Words in labels"
          value={term.hints.join(', ')}
          most={400}
          disabled={!mayEdit}
          onCommit={(text) => set({ hints: listed(text).join(',') })}
        />
        <Text
          label="Stands in for it"
          value={term.standIns.join('; ')}
          most={600}
          disabled={!mayEdit}
          onCommit={(text) =>
            set({
              standIns: text
                .split(';')
                .map((word) => word.trim().toLowerCase())
                .filter(Boolean)
                .join('|'),
            })
          }
        />
      </div>
      {own && (
        <Button
          look="loss"
          className="mt-3"
          disabled={!mayEdit}
          onClick={() => edit(`Word “${term.name}”`, [{ kind: 'term', id: own.id, op: 'remove' }])}
        >
          {isCore ? 'As in the core list again' : 'Remove the word'}
        </Button>
      )}
    </>
  );
}

const listed = (text: string) =>
  text
    .split(',')
    .map((word) => word.trim().toLowerCase())
    .filter(Boolean);

function Text({
  label,
  value,
  most,
  least = 0,
  disabled,
  onCommit,
}: {
  label: string;
  value: string;
  most: number;
  least?: number;
  disabled: boolean;
  onCommit: (text: string) => void;
}) {
  const [typed, setTyped] = useState<string>();
  const commit = () => {
    if (typed !== undefined && typed !== value && typed.trim().length >= least) onCommit(typed.trim());
    setTyped(undefined);
  };
  return (
    <label className="flex flex-col">
      <span className="text-xs text-ink-2">{label}</span>
      <input
        aria-label={label}
        className="h-7 rounded-sm border border-rule bg-raised px-2"
        maxLength={most}
        disabled={disabled}
        value={typed ?? value}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter') commit();
          if (event.key === 'Escape') setTyped(undefined);
        }}
      />
    </label>
  );
}
