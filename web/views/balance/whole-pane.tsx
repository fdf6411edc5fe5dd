import { useEffect, useMemo } from 'react';
import { bandsOfMix, buildUpsOf, coversOf } from '#core/balance/index.ts';
import { HallPane } from '../../app/hall-pane.tsx';
import { useBalance } from '../../sound/balance.ts';
import { AS_WRITTEN, mixOf } from '../../sound/mixes.ts';
import { orderedTracks } from '../../state/cue.ts';
import { useDocuments } from '../../state/documents.ts';
import { useWhole, watchWhole } from '../../sound/whole.ts';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { choose } from './balance-state.ts';
import { lufs, signed } from './figures.ts';
import { PricePane } from './price-pane.tsx';

const COVERED = 0.35;
const SHOWN = 6;

/** The whole as the engine plays it, with the hall. */
function AsPlayed() {
  const { figures, hasMoved, trouble } = useWhole();
  useEffect(watchWhole, []);
  if (trouble) return <Notice tone="warm">The whole could not be measured: {trouble}</Notice>;
  if (!figures) return null;
  return (
    <p className="mt-1 text-sm">
      As the engine plays it, with the hall: {lufs(figures.integratedLufs)} LUFS, true peak{' '}
      <span className={figures.truePeakDb > -1 ? 'text-warm' : undefined}>
        {signed(figures.truePeakDb)} dBTP
      </span>
      , sides correlate by {signed(figures.correlation, 2)}, width {signed(figures.sideDb)} dB
      {hasMoved && <span className="text-ink-3"> (before the last moves)</span>}.
    </p>
  );
}

/** All sections together: loudness, who covers whom, what builds up; and the hall they share. */
export function WholePane({ mayEdit }: { mayEdit: boolean }) {
  const sections = useBalance((state) => state.sections);
  const records = useDocuments((state) => state.records);
  const names = useMemo(() => new Map(orderedTracks(records).map(({ id, name }) => [id, name])), [records]);
  const heard = useMemo(
    () =>
      orderedTracks(records).flatMap((track) => {
        const section = sections[track.id];
        if (!section?.figures) return [];
        const mix = mixOf(records, track, AS_WRITTEN);
        if (mix.muted) return [];
        return [
          { id: track.id, bands: bandsOfMix(section.positions, mix), loudness: section.figures.loudness },
        ];
      }),
    [records, sections],
  );
  const hasWhole = useWhole(({ figures }) => figures !== undefined);
  const covered = useMemo(
    () =>
      coversOf(heard)
        .filter(({ share }) => share >= COVERED)
        .sort((a, b) => b.share - a.share)
        .slice(0, SHOWN),
    [heard],
  );
  const buildUps = useMemo(() => buildUpsOf(heard), [heard]);
  const total = heard.reduce((sum, { loudness }) => sum + 10 ** (loudness / 10), 0);
  const named = (list: readonly { id: string; share: number }[]) =>
    list
      .slice(0, 2)
      .map(({ id, share }) => `${names.get(id) ?? ''} (${Math.round(share * 100)} %)`)
      .join(' and ');
  return (
    <>
      {heard.length > 0 && (
        <>
          <h2 className="font-serif text-lg font-semibold">The whole</h2>
          <p className="text-sm">
            {heard.length} sections play{hasWhole ? '' : `, ${lufs(10 * Math.log10(total))} LUFS together`}.
          </p>
          <AsPlayed />
          {buildUps.map(({ name, excessDb, by }) => (
            <p key={name} className="mt-1 text-sm">
              {name === 'presence' ? 'Presence' : 'Low middle'}: {signed(excessDb)} dB against an even whole
              {excessDb > 1.5 ? `, most of it from ${named(by)}` : ''}.
            </p>
          ))}
          {covered.length > 0 && (
            <>
              <GroupTitle>Covered</GroupTitle>
              <ul className="text-sm">
                {covered.map(({ id, share, by }) => (
                  <li key={id} className="mb-1">
                    <button type="button" className="min-h-6 text-cool underline" onClick={() => choose(id)}>
                      {names.get(id)}
                    </button>
                    : {Math.round(share * 100)} % of it lies under others, most under {named(by)}.
                  </li>
                ))}
              </ul>
            </>
          )}
        </>
      )}
      <PricePane mayEdit={mayEdit} />
      <HallPane mayEdit={mayEdit} />
    </>
  );
}
