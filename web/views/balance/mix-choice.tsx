import { Save } from 'lucide-react';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { SLOTS, type Slot } from '#api/index.ts';
import { readMix } from '#core/balance/index.ts';
import { clamp } from '#core/units/index.ts';
import { useBalance, wholeLoudness } from '../../sound/balance.ts';
import { keepIn, keepNamed, presentMix, recallMix, snapshotIn } from '../../state/balance.ts';
import { edit, useDocuments, useList } from '../../state/documents.ts';
import { trimOwnHearing, useOwnHearing } from '../../state/own-hearing.ts';
import { askName, confirmLoss } from '../../ui/ask.tsx';
import { Button } from '../../ui/button.tsx';
import { Menu, type MenuItem } from '../../ui/menu.tsx';
import { signed } from './figures.ts';

/** Mixes to compare in three slots, and mixes that are kept by name. */
export function MixChoice({ mayEdit }: { mayEdit: boolean }) {
  return (
    <span className="flex items-center gap-1.5 text-sm">
      <span className="text-xs text-ink-3">Compare</span>
      {SLOTS.map((slot) => (
        <SlotButton key={slot} slot={slot} mayEdit={mayEdit} />
      ))}
      <EquallyLoud />
      <NamedMixes mayEdit={mayEdit} />
    </span>
  );
}

/** The most that hearing is turned up or down to compare. */
const MOST_TRIM_DB = 12;

/** While it is pressed, whatever mix is gone to is heard as loud as the one before. */
function EquallyLoud() {
  const loudness = useBalance((state) => wholeLoudness(state.sections));
  const trimDb = useOwnHearing((state) => state.trimDb ?? 0);
  const [reference, setReference] = useState<number>();
  const isKnown = Number.isFinite(loudness);
  useEffect(() => {
    const wanted = reference === undefined || !Number.isFinite(loudness) ? 0 : reference - loudness;
    trimOwnHearing(Math.round(clamp(wanted, -MOST_TRIM_DB, MOST_TRIM_DB) * 10) / 10 + 0);
  }, [reference, loudness]);
  useEffect(() => () => trimOwnHearing(0), []);
  return (
    <Button
      className="py-0"
      pressed={reference !== undefined}
      disabled={!isKnown && reference === undefined}
      title={
        isKnown
          ? 'Turns what you hear up or down, so that every mix you go to is as loud as the present one. Nobody else hears it, and no bounce.'
          : 'Measure first: then mixes can be heard equally loud.'
      }
      onClick={() => setReference(reference === undefined ? loudness : undefined)}
    >
      Equally loud{reference !== undefined && trimDb !== 0 ? ` (${signed(trimDb)} dB)` : ''}
    </Button>
  );
}

function SlotButton({ slot, mayEdit }: { slot: Slot; mayEdit: boolean }) {
  const records = useDocuments((state) => state.records);
  const kept = snapshotIn(records, slot);
  const isNow = kept !== undefined && JSON.stringify(kept) === JSON.stringify(presentMix(records));
  const recall = () => {
    if (!kept) return keepIn(slot);
    const unknown = recallMix(kept, `Mix ${slot}`);
    if (unknown.length > 0) toast(`Mix ${slot} says nothing of ${unknown.join(', ')}.`);
  };
  const items: MenuItem[] = [
    { text: `Keep the present mix as ${slot}`, disabled: !mayEdit, onSelect: () => keepIn(slot) },
  ];
  return (
    <span
      className={`flex items-center rounded-md border ${isNow ? 'border-cool bg-cool-tint' : 'border-rule bg-raised'}`}
    >
      <button
        type="button"
        disabled={!mayEdit}
        aria-pressed={isNow}
        title={kept ? `Go to mix ${slot}` : `Keep the present mix as ${slot}`}
        className={`min-h-6 min-w-7 px-1.5 ${kept ? 'font-semibold' : 'text-ink-3'}`}
        onClick={recall}
      >
        {slot}
      </button>
      {kept && (
        <Menu
          label={`More for mix ${slot}`}
          trigger={<Save size={12} aria-hidden />}
          className="px-1"
          groups={[items]}
        />
      )}
    </span>
  );
}

function NamedMixes({ mayEdit }: { mayEdit: boolean }) {
  const mixes = useList('keptMix');
  const keep = async () => {
    const name = await askName(
      'Keep this mix',
      'Under this name it is there for every template of the studio.',
      'Keep',
    );
    if (name) keepNamed(name);
  };
  const take = (mix: string, name: string) => {
    const read = readMix(mix);
    const unknown = read ? recallMix(read, `Mix “${name}”`) : undefined;
    if (!unknown) toast.error(`“${name}” cannot be read any more.`);
    else if (unknown.length > 0) toast(`“${name}” says nothing of ${unknown.join(', ')}.`);
  };
  return (
    <Menu
      label="Kept mixes"
      trigger={<span className="px-1 text-sm">Kept mixes</span>}
      className="border border-rule bg-raised"
      groups={[
        mixes.map(({ name, mix }) => ({ text: name, disabled: !mayEdit, onSelect: () => take(mix, name) })),
        [{ text: 'Keep this mix …', disabled: !mayEdit, onSelect: () => void keep() }],
        mixes.map(({ id, name }) => ({
          text: `Forget “${name}” …`,
          loss: true,
          disabled: !mayEdit,
          onSelect: () =>
            void confirmLoss('Forget this mix', `“${name}” is forgotten in the whole studio.`, 'Forget').then(
              (sure) => sure && edit('Forget a mix', [{ kind: 'keptMix', id, op: 'remove' }]),
            ),
        })),
      ]}
    />
  );
}
