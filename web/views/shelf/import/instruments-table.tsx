import { FAMILIES, KIND_NAMES, type Family, type InstrumentKind } from '#core/catalogue/index.ts';
import { Choice } from '../../../ui/field.tsx';
import { GroupTitle } from '../../../ui/heading.tsx';
import { HearSample } from './hear-sample.tsx';
import type { InstrumentSaid, Reading } from './reading.ts';

const KINDS = ['solo', 'section', 'ensemble'].map((value) => ({ value, text: KIND_NAMES[value] }));
const FAMILY_OPTIONS = FAMILIES.map((value) => ({ value: value as string, text: value as string }));
const UNKNOWN = { value: '', text: 'which family?' };
/** More instruments than this are taken as guessed: nobody reads such a table. Those that nothing tells are asked all the same. */
const MOST_LISTED = 24;
/** From so many on, one answer serves all of them. */
const MANY = 3;

/** The instruments of an import: family, kind and players as guessed, or asked where nothing tells them. */
export function InstrumentsTable({
  importId,
  instruments,
  asked,
  said,
  onChange,
}: {
  importId: string;
  instruments: Reading['instruments'];
  asked: number;
  said: Readonly<Record<string, InstrumentSaid>>;
  onChange: (names: readonly string[], meaning: InstrumentSaid) => void;
}) {
  const isOpen = ({ name, isTold }: Reading['instruments'][number]) =>
    !isTold && said[name]?.family === undefined;
  const many = instruments.length > MOST_LISTED;
  const listed = many ? instruments.filter(({ isTold }) => !isTold).slice(0, MOST_LISTED) : instruments;
  const open = instruments.filter(isOpen).map(({ name }) => name);
  return (
    <>
      <GroupTitle>{instruments.length === 1 ? 'The instrument' : 'The instruments'}</GroupTitle>
      {many && (
        <p className="text-ink-2">
          {instruments.length} instruments; their families are told from their names and programs
          {listed.length > 0 ? ', but for these:' : '.'}
        </p>
      )}
      {asked > 0 && (
        <div className="flex items-center gap-3 py-1" role="status">
          <span className="text-warm">
            {asked === 1 ? 'Of one' : `Of ${asked}`} nothing tells the family. Say what{' '}
            {asked === 1 ? 'it is' : 'they are'}.
          </span>
          {asked > MANY && (
            <Choice
              label="All of these are"
              value=""
              onChange={(event) => onChange(open, { family: event.target.value as Family })}
              options={[UNKNOWN, ...FAMILY_OPTIONS]}
            />
          )}
        </div>
      )}
      <ul>
        {listed.map((one) => (
          <InstrumentRow
            key={one.name}
            importId={importId}
            {...one}
            isOpen={isOpen(one)}
            onChange={(meaning) => onChange([one.name], meaning)}
          />
        ))}
      </ul>
    </>
  );
}

function InstrumentRow({
  importId,
  name,
  family,
  kind,
  players,
  reason,
  example,
  isOpen,
  onChange,
}: Reading['instruments'][number] & {
  importId: string;
  isOpen: boolean;
  onChange: (meaning: InstrumentSaid) => void;
}) {
  return (
    <li className="flex items-center gap-4 border-b border-rule-soft py-1">
      <span className="flex w-48 items-center gap-1">
        {example !== null && <HearSample importId={importId} sample={example} name={name} />}
        <span className="truncate font-semibold" title={name}>
          {name}
        </span>
      </span>
      <Choice
        label={`Family of ${name}`}
        hideLabel
        className="w-32"
        value={isOpen ? '' : family}
        onChange={(event) => onChange({ family: event.target.value as Family })}
        options={isOpen ? [UNKNOWN, ...FAMILY_OPTIONS] : FAMILY_OPTIONS}
      />
      <Choice
        label={`Kind of ${name}`}
        hideLabel
        value={kind}
        onChange={(event) => onChange({ kind: event.target.value as InstrumentKind })}
        options={KINDS}
      />
      <label className="flex items-center gap-1.5">
        <input
          aria-label={`Players of ${name}`}
          type="number"
          min={1}
          max={200}
          value={players}
          onChange={(event) =>
            onChange({ players: Math.min(200, Math.max(1, Math.round(Number(event.target.value)) || 1)) })
          }
          className="w-16 rounded-md border border-rule bg-raised px-2 py-0.5"
        />
        players
      </label>
      <span className="min-w-0 flex-1 truncate text-xs text-ink-3">{reason}</span>
    </li>
  );
}
