import { useState } from 'react';
import { naturalId } from '#api/index.ts';
import type { Aims, Proposal, Reached } from '#core/balance/index.ts';
import { solveFor, useBalance } from '../../sound/balance.ts';
import { takeMix } from '../../state/balance.ts';
import { edit, useDocuments, useOwnedBy, type Item } from '../../state/documents.ts';
import { Button } from '../../ui/button.tsx';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { numberWithin } from '../../ui/numbers.ts';
import { useTyped } from '../../ui/use-typed.ts';
import { AimSources } from './aim-sources.tsx';
import { lufs, signed } from './figures.ts';

const AIMS = [
  { name: 'loudness', field: 'loudnessDb', label: 'Loudness', unit: 'LUFS', low: -60, high: 0 },
  { name: 'depthDb', field: 'depthDb', label: 'Depth', unit: 'dB', low: -30, high: 40 },
  { name: 'sideDb', field: 'sideDb', label: 'Width', unit: 'dB', low: -60, high: 12 },
] as const;

/** What a section is to reach, and the mix that brings it there. */
export function AimsPane({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  const [aim] = useOwnedBy('aim', track.id);
  const figures = useBalance((state) => state.sections[track.id]?.figures);
  const [found, setFound] = useState<Proposal>();
  const [hall, setHall] = useState(true);
  const [width, setWidth] = useState(false);
  const templateId = useDocuments((state) => state.templateId);
  const set = (label: string, fields: Partial<Item<'aim'>>) => {
    setFound(undefined);
    edit(label, [
      aim
        ? { kind: 'aim', id: aim.id, op: 'update', fields }
        : {
            kind: 'aim',
            id: naturalId('aim', templateId ?? '', track.id),
            op: 'add',
            fields: { trackId: track.id, loudnessDb: null, depthDb: null, sideDb: null, ...fields },
          },
    ]);
  };
  const aims: Aims = {};
  for (const { name, field } of AIMS) {
    const wanted = aim?.[field];
    if (wanted !== null && wanted !== undefined) aims[name] = wanted;
  }
  return (
    <>
      <GroupTitle>Aims</GroupTitle>
      <div className="grid grid-cols-[1fr_auto_auto] items-baseline gap-x-2 text-sm">
        {AIMS.map(({ name, field, label, unit, low, high }) => (
          <AimLine
            key={field}
            label={label}
            unit={unit}
            now={name === 'loudness' ? lufs(figures?.loudness) : signed(figures?.[name])}
            wanted={aim?.[field] ?? null}
            low={low}
            high={high}
            mayEdit={mayEdit}
            onChange={(value) => set(`Aim for the ${label.toLowerCase()}`, { [field]: value })}
          />
        ))}
      </div>
      <AimSources
        track={track}
        mayEdit={mayEdit}
        onTake={(label, fields) => {
          set(label, fields);
          // A width alone is reached by nothing else.
          if (fields.depthDb === undefined) setWidth(true);
        }}
      />
      <div className="mt-1.5 flex flex-wrap items-center gap-3 text-xs">
        <label className="flex min-h-6 items-center gap-1">
          <input type="checkbox" checked={hall} onChange={(event) => setHall(event.target.checked)} /> by the
          hall
        </label>
        <label className="flex min-h-6 items-center gap-1">
          <input type="checkbox" checked={width} onChange={(event) => setWidth(event.target.checked)} /> by
          width
        </label>
        <Button
          look="main"
          disabled={Object.keys(aims).length === 0}
          onClick={() => void solveFor(track.id, aims, { hall, width }).then(setFound)}
        >
          Find a mix
        </Button>
      </div>
      {found && (
        <Notice tone={found.reached.every(({ isMet }) => isMet) ? 'cool' : 'straw'}>
          {found.reached.map((one) => (
            <p key={one.aim}>{sentenceOf(one)}</p>
          ))}
          <button
            type="button"
            disabled={!mayEdit}
            className="min-h-6 text-cool underline"
            onClick={() => {
              takeMix(track.id, found.mix, `Bring ${track.name} to its aims`);
              setFound(undefined);
            }}
          >
            Take this mix
          </button>
        </Notice>
      )}
    </>
  );
}

const NAMES = { loudness: 'Loudness', depthDb: 'Depth', sideDb: 'Width' } as const;

function sentenceOf({ aim, wanted, before, after, reach, isMet }: Reached): string {
  const name = NAMES[aim];
  const text = aim === 'loudness' ? lufs : signed;
  const moved = `${name} from ${text(before)} to ${text(after)}`;
  if (isMet) return `${moved}.`;
  const far =
    wanted > reach[1] ? `at most ${text(reach[1])}` : wanted < reach[0] ? `at least ${text(reach[0])}` : '';
  return far
    ? `${moved}, not ${text(wanted)}: as it was recorded it gives ${far}.`
    : `${moved}, not ${text(wanted)}: the other aims stand against it.`;
}

function AimLine({
  label,
  unit,
  now,
  wanted,
  low,
  high,
  mayEdit,
  onChange,
}: {
  label: string;
  unit: string;
  now: string;
  wanted: number | null;
  low: number;
  high: number;
  mayEdit: boolean;
  onChange: (value: number | null) => void;
}) {
  const { field, wrong } = useTyped(wanted === null ? '' : signed(wanted).replace('+', ''), (text) => {
    const value = text.trim() === '' ? null : numberWithin(low, high)(text);
    if (typeof value === 'string')
      return `A number from ${signed(low).replace('+', '')} to ${signed(high)} ${unit}, or nothing.`;
    onChange(value === null ? null : Math.round(value * 10) / 10);
  });
  return (
    <>
      <span>
        {label} <span className="text-xs text-ink-3">now {now}</span>
      </span>
      <input
        aria-label={`Aim for the ${label.toLowerCase()}`}
        placeholder="any"
        disabled={!mayEdit}
        className={`h-6 w-16 rounded-sm border bg-raised px-1 text-right ${wrong === undefined ? 'border-rule' : 'border-warm'}`}
        {...field}
      />
      <span className="text-xs text-ink-2">{unit}</span>
      {wrong !== undefined && (
        <span role="alert" className="col-span-3 text-xs text-warm">
          {wrong}
        </span>
      )}
    </>
  );
}
