import { X } from 'lucide-react';
import type { InstrumentSummary } from '#api/index.ts';
import { SOURCE_PARTS, spreadMorph, type Entry, type Source, type SourcePart } from '#core/keymap/index.ts';
import type { HouseKeymap } from '../../state/keymaps.ts';
import { useVocabulary } from '../../state/keymaps.ts';
import { toNumber } from '../../ui/numbers.ts';
import { wholeWithin } from '../../ui/numbers.ts';
import { Typed } from '../../ui/typed.tsx';
import { TypedRange } from '../../ui/typed-range.tsx';
import { addSource, change, setSource } from './keymap-edits.ts';

/** What sounds for an articulation: itself, layers, parts by velocity, or a morph along a controller. */
export function SourceEditor({
  house,
  entry,
  instrument,
  mayEdit,
}: {
  house: HouseKeymap;
  entry: Entry;
  instrument: InstrumentSummary;
  mayEdit: boolean;
}) {
  const vocabulary = useVocabulary();
  const { sources, morph } = entry;
  const terms = [
    ...new Set([...instrument.articulations.map(({ id }) => id), ...sources.map((one) => one.articulation)]),
  ];
  const name = (id: string) => vocabulary.term(id).name;
  return (
    <div>
      {sources.length === 0 && (
        <p className="text-ink-2">{name(entry.articulation)} itself, at its own level.</p>
      )}
      {sources.map((source) => (
        <SourceRow key={source.id} {...{ house, entry, source, terms, mayEdit }} name={name} />
      ))}
      <select
        aria-label="Let something else sound with it"
        className="min-h-6 max-w-full rounded-md border border-transparent bg-transparent text-sm text-cool hover:border-rule"
        value=""
        disabled={!mayEdit}
        onChange={(event) =>
          event.target.value && change('Layer', house, addSource(entry, event.target.value, { levelDb: -6 }))
        }
      >
        <option value="">{sources.length === 0 ? 'Let something sound with it …' : 'And also …'}</option>
        {terms.map((id) => (
          <option key={id} value={id}>
            {name(id)}
          </option>
        ))}
      </select>
      {sources.length > 1 && (
        <div className="mt-1 flex flex-wrap items-center gap-1.5">
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="size-4 accent-(--cool)"
              disabled={!mayEdit}
              checked={morph !== undefined}
              onChange={(event) =>
                change(event.target.checked ? 'Morph' : 'Sound together', house, [
                  {
                    kind: 'entry',
                    id: entry.id,
                    op: 'update',
                    fields: { morph: event.target.checked ? MORPH_CONTROLLER : -1 },
                  },
                  ...(event.target.checked
                    ? spreadMorph(sources).map(({ id, morphAt }) => setSource(id, { morphAt, levelDb: 0 }))
                    : []),
                ])
              }
            />
            A controller goes from one to the next
          </label>
          {morph !== undefined && (
            <Typed
              label="Controller of the morph"
              width="w-10"
              value={String(morph)}
              parse={wholeWithin(0, 127)}
              disabled={!mayEdit}
              onCommit={(value) =>
                change('Controller of the morph', house, [
                  { kind: 'entry', id: entry.id, op: 'update', fields: { morph: value } },
                ])
              }
            />
          )}
        </div>
      )}
    </div>
  );
}

/** Controller 2 (breath) is free on most keyboards. */
const MORPH_CONTROLLER = 2;
const PART_TEXT: Record<SourcePart, string> = {
  whole: 'whole',
  attack: 'its attack only',
  body: 'without its attack',
};

function SourceRow({
  house,
  entry,
  source,
  terms,
  name,
  mayEdit,
}: {
  house: HouseKeymap;
  entry: Entry;
  source: Source;
  terms: readonly string[];
  name: (id: string) => string;
  mayEdit: boolean;
}) {
  const set = (label: string, fields: Partial<Omit<Source, 'id'>>) =>
    change(label, house, [setSource(source.id, fields)]);
  const { velocityLow, velocityHigh } = source;
  return (
    <fieldset className="mb-1.5 border-l-2 border-rule pl-2">
      <legend className="sr-only">{name(source.articulation)}</legend>
      <div className="flex items-center gap-1.5">
        <select
          aria-label="Articulation that sounds"
          className="h-6 min-w-0 flex-1 rounded-md border border-rule bg-raised text-sm"
          value={source.articulation}
          disabled={!mayEdit}
          onChange={(event) => set('Articulation that sounds', { articulation: event.target.value })}
        >
          {terms.map((id) => (
            <option key={id} value={id}>
              {name(id)}
            </option>
          ))}
        </select>
        <Typed
          label={`Level of ${name(source.articulation)}`}
          value={String(source.levelDb).replace('-', '−')}
          parse={(text) => {
            const value = toNumber(text);
            return value !== undefined && value >= -60 && value <= 12 ? value : 'A level from −60 to 12 dB.';
          }}
          disabled={!mayEdit}
          onCommit={(levelDb) => set('Level of a layer', { levelDb })}
        />
        <span className="text-ink-2">dB</span>
        <button
          type="button"
          disabled={!mayEdit}
          aria-label={`Let ${name(source.articulation)} no longer sound`}
          title="Let it no longer sound"
          className="grid size-6 place-items-center text-ink-3 hover:text-warm"
          onClick={() =>
            change('Remove a layer', house, [
              { kind: 'source', id: source.id, op: 'remove' },
              ...(entry.sources.length <= 2 && entry.morph !== undefined
                ? [{ kind: 'entry' as const, id: entry.id, op: 'update' as const, fields: { morph: -1 } }]
                : []),
            ])
          }
        >
          <X size={14} aria-hidden />
        </button>
      </div>
      <div className="mt-0.5 flex flex-wrap items-start gap-1.5 text-ink-2">
        <span className="pt-1">velocity</span>
        <TypedRange
          labels={[
            `Lowest velocity of ${name(source.articulation)}`,
            `Highest velocity of ${name(source.articulation)}`,
          ]}
          low={velocityLow}
          high={velocityHigh}
          least={1}
          disabled={!mayEdit}
          onCommit={(low, high) => set('Velocities', { velocityLow: low, velocityHigh: high })}
        />
        {entry.morph === undefined ? (
          <select
            aria-label={`How much of ${name(source.articulation)} sounds`}
            className="h-6 rounded-md border border-rule bg-raised text-sm text-ink"
            value={source.part}
            disabled={!mayEdit}
            onChange={(event) => set('Part that sounds', { part: event.target.value as SourcePart })}
          >
            {SOURCE_PARTS.map((part) => (
              <option key={part} value={part}>
                {PART_TEXT[part]}
              </option>
            ))}
          </select>
        ) : (
          <>
            <span className="pt-1">alone at</span>
            <Typed
              label={`Where ${name(source.articulation)} is heard alone`}
              width="w-10"
              value={String(source.morphAt)}
              parse={wholeWithin(0, 127)}
              disabled={!mayEdit}
              onCommit={(morphAt) => set('Place in the morph', { morphAt })}
            />
          </>
        )}
      </div>
    </fieldset>
  );
}
