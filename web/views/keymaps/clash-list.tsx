import { Link } from 'react-router';
import type { Clash, ClashKind } from '#core/keymap/index.ts';
import { Notice } from '../../ui/heading.tsx';
import type { HouseKeymap } from '../../state/keymaps.ts';
import { change, repairEdits } from './keymap-edits.ts';
import { choose, useKeymaps } from './keymaps-state.ts';

/** What is good to know and need not be mended. */
const QUIET: ReadonlySet<ClashKind> = new Set(['differs', 'unreachable', 'stands in']);

/** Clashes as sentences: each leads to its place and offers what would mend it. */
export function ClashList({
  house,
  clashes,
  mayEdit,
}: {
  house: HouseKeymap;
  clashes: readonly Clash[];
  mayEdit: boolean;
}) {
  return (
    <ul aria-label="Clashes">
      {clashes.map((clash) => (
        <li key={`${clash.kind} ${clash.entryId} ${clash.triggerId} ${clash.sentence}`}>
          <Notice tone={QUIET.has(clash.kind) ? 'straw' : 'warm'}>
            <button type="button" className="text-left" title="Show it" onClick={() => choose(clash.entryId)}>
              {clash.sentence}
            </button>{' '}
            {clash.kind === 'stands in' && (
              <Link to="/keymaps/coverage" className="text-cool underline">
                See who has it
              </Link>
            )}
            {clash.repair && (
              <button
                type="button"
                disabled={!mayEdit}
                className="min-h-6 text-cool underline disabled:opacity-50"
                onClick={() =>
                  clash.repair && change(clash.repair.text, house, repairEdits(house, clash.repair.changes))
                }
              >
                {clash.repair.text}
              </button>
            )}
          </Notice>
        </li>
      ))}
    </ul>
  );
}

/** An edit that was not made, why, and how it could be. */
export function Refused({ house }: { house: HouseKeymap }) {
  const refused = useKeymaps((state) => state.refused);
  return (
    <div role="alert">
      {refused?.keymapId === house.keymap.id &&
        refused.clashes.map((clash) => (
          <Notice key={`${clash.kind} ${clash.triggerId}`} tone="warm">
            {clash.sentence} Nothing was changed.{' '}
            {clash.repair && (
              <button
                type="button"
                className="min-h-6 text-cool underline"
                onClick={() => refused.withRepair(repairEdits(house, clash.repair?.changes ?? []))}
              >
                {clash.repair.text}
              </button>
            )}{' '}
            <button
              type="button"
              className="min-h-6 text-ink-2 underline"
              onClick={() => useKeymaps.setState({ refused: undefined })}
            >
              Leave it
            </button>
          </Notice>
        ))}
    </div>
  );
}
