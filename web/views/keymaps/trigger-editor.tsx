import { X } from 'lucide-react';
import { plainTrigger, triggerSets, type Entry, type Trigger, type TriggerKind } from '#core/keymap/index.ts';
import { parsePitch, pitchName, type MiddleC } from '#core/music/index.ts';
import type { HouseKeymap } from '../../state/keymaps.ts';
import { Button } from '../../ui/button.tsx';
import { wholeWithin } from '../../ui/numbers.ts';
import { Typed } from '../../ui/typed.tsx';
import { TypedRange } from '../../ui/typed-range.tsx';
import { addTrigger, change, freeSet, setTrigger } from './keymap-edits.ts';
import { useKeymaps } from './keymaps-state.ts';

/** Kinds of triggers by what people call them. */
const KINDS: readonly { kind: TriggerKind; text: string }[] = [
  { kind: 'key', text: 'a keyswitch' },
  { kind: 'controller', text: 'a controller range' },
  { kind: 'program', text: 'a program' },
  { kind: 'bank', text: 'a bank' },
  { kind: 'velocity', text: 'a velocity range' },
  { kind: 'channel', text: 'a MIDI channel' },
  { kind: 'track', text: 'a track of its own' },
];

interface Editing {
  house: HouseKeymap;
  entry: Entry;
  middleC: MiddleC;
  mayEdit: boolean;
}

/** What selects one articulation: conditions that hold together, and others that will do as well. */
export function TriggerEditor(props: Editing) {
  const { house, entry, mayEdit } = props;
  const sets = triggerSets(entry);
  const add = (kind: TriggerKind, set: number) =>
    change('Trigger', house, [addTrigger(entry.id, newTrigger(house, kind, set))]);
  return (
    <div>
      {sets.length === 0 && (
        <p className="text-ink-2">Only marks reach it; nothing selects it while playing.</p>
      )}
      {sets.map((set, i) => (
        <fieldset key={set[0].set} className="mb-1.5 border-l-2 border-rule pl-2">
          <legend className="sr-only">{`Triggers that must hold together, ${i + 1}`}</legend>
          {i > 0 && <span className="text-xs text-ink-3">or</span>}
          {set.map((trigger, k) => (
            <TriggerRow key={trigger.id} {...props} trigger={trigger} joined={k > 0} />
          ))}
          <AddTrigger label="and also …" disabled={!mayEdit} onAdd={(kind) => add(kind, set[0].set)} />
        </fieldset>
      ))}
      <AddTrigger
        label={sets.length === 0 ? 'Select it by …' : 'or by …'}
        disabled={!mayEdit || sets.length >= 16}
        onAdd={(kind) => add(kind, freeSet(entry))}
      />
    </div>
  );
}

function AddTrigger({
  label,
  disabled,
  onAdd,
}: {
  label: string;
  disabled: boolean;
  onAdd: (kind: TriggerKind) => void;
}) {
  return (
    <select
      aria-label={label}
      className="min-h-6 rounded-md border border-transparent bg-transparent text-sm text-cool hover:border-rule"
      value=""
      disabled={disabled}
      onChange={(event) => event.target.value && onAdd(event.target.value as TriggerKind)}
    >
      <option value="">{label}</option>
      {KINDS.map(({ kind, text }) => (
        <option key={kind} value={kind}>
          {text}
        </option>
      ))}
    </select>
  );
}

function TriggerRow({
  house,
  entry,
  trigger,
  joined,
  middleC,
  mayEdit,
}: Editing & { trigger: Trigger; joined: boolean }) {
  const set = (fields: Partial<Omit<Trigger, 'id' | 'set'>>) =>
    change('Trigger', house, [setTrigger(trigger.id, fields)]);
  return (
    <div className="flex flex-wrap items-start gap-1 py-0.5">
      {joined && <span className="pt-1 text-xs text-ink-3">and</span>}
      <TriggerFields {...{ entry, trigger, middleC, mayEdit, set }} />
      <button
        type="button"
        disabled={!mayEdit}
        aria-label="Remove the trigger"
        title="Remove the trigger"
        className="ml-auto grid size-6 place-items-center text-ink-3 hover:text-warm"
        onClick={() =>
          change('Remove the trigger', house, [{ kind: 'trigger', id: trigger.id, op: 'remove' }])
        }
      >
        <X size={14} aria-hidden />
      </button>
    </div>
  );
}

function TriggerFields({
  entry,
  trigger,
  middleC,
  mayEdit,
  set,
}: {
  entry: Entry;
  trigger: Trigger;
  middleC: MiddleC;
  mayEdit: boolean;
  set: (fields: Partial<Omit<Trigger, 'id' | 'set'>>) => void;
}) {
  const { kind, number, low, high, hold } = trigger;
  const learning = useKeymaps((state) => state.learning === trigger.id);
  const range = (
    <>
      <span className="pt-1 text-ink-2">from</span>
      <TypedRange
        labels={['Lowest value', 'Highest value']}
        {...{ low, high }}
        least={0}
        disabled={!mayEdit}
        onCommit={(low, high) => set({ low, high })}
      />
    </>
  );
  switch (kind) {
    case 'key':
      return (
        <>
          <Typed
            label={`Keyswitch of ${entry.articulation}`}
            value={pitchName(number, middleC)}
            parse={keyOf(middleC)}
            disabled={!mayEdit}
            onCommit={(value) => set({ number: value })}
          />
          <select
            aria-label="How the key selects"
            className="h-6 rounded-md border border-rule bg-raised text-sm"
            value={hold}
            disabled={!mayEdit}
            onChange={(event) => set({ hold: event.target.value as Trigger['hold'] })}
          >
            <option value="latching">latching</option>
            <option value="held">held</option>
          </select>
          <Button
            className="px-1.5 py-0"
            pressed={learning}
            disabled={!mayEdit}
            title="The next key that is played becomes the keyswitch"
            onClick={() => useKeymaps.setState({ learning: learning ? undefined : trigger.id })}
          >
            {learning ? 'Play …' : 'Play it'}
          </Button>
        </>
      );
    case 'controller':
      return (
        <>
          <span className="pt-1">Controller</span>
          <Typed
            label="Controller number"
            width="w-10"
            value={String(number)}
            parse={wholeWithin(0, 127)}
            disabled={!mayEdit}
            onCommit={(value) => set({ number: value })}
          />
          {range}
        </>
      );
    case 'velocity':
      return (
        <>
          <span className="pt-1">Velocity</span>
          {range}
        </>
      );
    case 'track':
      return <span className="pt-1">A track of its own plays it.</span>;
    default: {
      const shift = kind === 'bank' ? 0 : 1;
      const highest = { bank: 16383, channel: 15, program: 127 }[kind];
      return (
        <>
          <span className="pt-1">{{ bank: 'Bank', channel: 'Channel', program: 'Program' }[kind]}</span>
          <Typed
            label={`Number of the ${kind}`}
            value={String(number + shift)}
            parse={wholeWithin(0, highest, shift)}
            disabled={!mayEdit}
            onCommit={(value) => set({ number: value })}
          />
        </>
      );
    }
  }
}

/** A key as people write it, or its number. */
export function keyOf(middleC: MiddleC): (text: string) => number | string {
  return (text) => {
    const number = Number(text.trim());
    if (text.trim() !== '' && Number.isInteger(number) && number >= 0 && number <= 127) return number;
    return (
      parsePitch(text, middleC) ??
      `“${text}” is no key. Write a name such as ${pitchName(24, middleC)}, or a number from 0 to 127.`
    );
  };
}

/** A trigger of a kind that clashes with nothing yet, where that can be. */
function newTrigger(house: HouseKeymap, kind: TriggerKind, set: number): Omit<Trigger, 'id'> {
  const others = house.keymap.entries.flatMap((entry) => entry.triggers).filter((one) => one.kind === kind);
  const used = new Set(others.map((one) => one.number));
  const free = (from: number) => {
    let number = from;
    while (used.has(number)) number++;
    return number;
  };
  if (kind === 'key') return plainTrigger({ set, number: free(24) });
  if (kind === 'controller') {
    // Of a controller that divides already, the part above the others.
    const number = others.at(-1)?.number ?? 32;
    const top = Math.max(-1, ...others.filter((one) => one.number === number).map((one) => one.high));
    return top < 127
      ? plainTrigger({ kind, set, number, low: top + 1, high: 127 })
      : plainTrigger({ kind, set, number: free(number + 1) });
  }
  if (kind === 'velocity') {
    const top = Math.max(0, ...others.map((one) => one.high));
    return plainTrigger({ kind, set, low: Math.min(127, top < 127 ? top + 1 : 100), high: 127 });
  }
  return plainTrigger({ kind, set, number: free(0) });
}
