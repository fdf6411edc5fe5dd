import { Link2, Link2Off } from 'lucide-react';
import { Fragment, useMemo } from 'react';
import { memoryBytes, samplesOf, type Family } from '#core/catalogue/index.ts';
import { useBalance } from '../../sound/balance.ts';
import { useInstruments } from '../../sound/instruments.ts';
import { cellOf, columnsOf, isLinked, toggleFamilyLink } from '../../state/balance.ts';
import { orderedTracks } from '../../state/cue.ts';
import { useDocuments, type Item } from '../../state/documents.ts';
import { toggleOwnHearing, togglePositionAlone, useOwnHearing } from '../../state/own-hearing.ts';
import { megabytes } from '../../ui/megabytes.ts';
import { FamilyTag } from '../../ui/tag.tsx';
import { choose, useChosen } from './balance-state.ts';
import { CellRuler } from './cell-ruler.tsx';
import { DistanceRuler } from './distance-ruler.tsx';
import { lufs, signed } from './figures.ts';

/** Sections as rows, positions as columns, and at the end of each row what it amounts to. */
export function Matrix({ mayEdit }: { mayEdit: boolean }) {
  const records = useDocuments((state) => state.records);
  const tracks = orderedTracks(records);
  const columns = useMemo(() => columnsOf(records), [records]);
  const alone = useOwnHearing((state) => state.positions);
  const families = useMemo(() => {
    const groups: { family: Family; tracks: Item<'track'>[] }[] = [];
    for (const track of tracks) {
      const last = groups.find(({ family }) => family === track.family);
      if (last) last.tracks.push(track);
      else groups.push({ family: track.family, tracks: [track] });
    }
    return groups;
  }, [tracks]);
  return (
    <div className="h-full overflow-auto">
      <table
        className="w-full table-fixed border-collapse text-sm"
        style={{ minWidth: 410 + columns.length * 80 }}
      >
        <colgroup>
          <col className="w-[158px]" />
          <col className="w-[66px]" />
          {columns.map(({ id }) => (
            <col key={id} />
          ))}
          <col className="w-[46px]" />
          <col className="w-[46px]" />
          <col className="w-[42px]" />
          <col className="w-[58px]" />
        </colgroup>
        <thead className="sticky top-0 z-10 bg-sheet">
          <tr className="border-b border-rule text-left text-xs text-ink-3">
            <th className="py-1.5 pl-3 font-normal">Section</th>
            <th className="font-normal" title="Near to far: all positions of a section together">
              near–far
            </th>
            {columns.map(({ id, name }) => (
              <th key={id} className="truncate px-1 font-normal">
                <span className="flex items-center">
                  <span className="truncate tracking-tight" title={name}>
                    {name}
                  </span>
                  <button
                    type="button"
                    aria-pressed={alone?.has(id) ?? false}
                    aria-label={`Hear ${name} alone`}
                    title={`Hear ${name} of all sections alone, for yourself`}
                    className={`grid size-6 shrink-0 place-items-center rounded-sm ${alone?.has(id) ? 'bg-cool-tint font-bold text-cool' : 'text-ink-3'}`}
                    onClick={() => togglePositionAlone(id)}
                  >
                    s
                  </button>
                </span>
              </th>
            ))}
            <th className="pr-1 text-right font-normal" title="Loudness over the passage, LUFS">
              LUFS
            </th>
            <th className="pr-1 text-right font-normal" title="Direct sound against the room, dB">
              Depth
            </th>
            <th className="pr-1 text-right font-normal" title="Level of the difference of the sides, dB">
              Width
            </th>
            <th className="pr-3 text-right font-normal">Memory</th>
          </tr>
        </thead>
        <tbody>
          {families.map(({ family, tracks: own }) => (
            <Fragment key={family}>
              <FamilyRow family={family} tracks={own} columns={columns.length} mayEdit={mayEdit} />
              {own.map((track) => (
                <SectionRow key={track.id} track={track} columns={columns} mayEdit={mayEdit} />
              ))}
            </Fragment>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function FamilyRow({
  family,
  tracks,
  columns,
  mayEdit,
}: {
  family: Family;
  tracks: readonly Item<'track'>[];
  columns: number;
  mayEdit: boolean;
}) {
  const linked = useDocuments((state) => isLinked(state.records, family));
  const sections = useBalance((state) => state.sections);
  const power = tracks.reduce((sum, { id }) => {
    const loudness = sections[id]?.figures?.loudness;
    return sum + (loudness === undefined ? 0 : 10 ** (loudness / 10));
  }, 0);
  return (
    <tr className="border-b border-rule-soft bg-ground">
      <th scope="rowgroup" colSpan={2 + columns} className="py-0.5 pl-3 text-left font-normal">
        <span className="flex items-center gap-2">
          <FamilyTag family={family} />
          <span className="font-serif text-[14px] font-semibold capitalize">{family}</span>
          {tracks.length > 1 && (
            <button
              type="button"
              aria-pressed={linked}
              disabled={!mayEdit}
              title={
                linked
                  ? 'Moved together, each keeping its difference. Press to move them one by one.'
                  : 'Moved one by one. Press to move the whole family together.'
              }
              onClick={() => toggleFamilyLink(family)}
              className={`inline-flex min-h-6 items-center gap-1 rounded-sm px-1 text-xs ${linked ? 'bg-cool-tint text-ink' : 'text-ink-3 hover:text-ink'}`}
            >
              {linked ? <Link2 size={13} aria-hidden /> : <Link2Off size={13} aria-hidden />}
              {linked ? 'linked' : 'link'}
            </button>
          )}
        </span>
      </th>
      <td className="pr-1 text-right text-xs text-ink-2">{power > 0 ? lufs(10 * Math.log10(power)) : ''}</td>
      <td colSpan={3} />
    </tr>
  );
}

function SectionRow({
  track,
  columns,
  mayEdit,
}: {
  track: Item<'track'>;
  columns: readonly { id: string; name: string }[];
  mayEdit: boolean;
}) {
  const records = useDocuments((state) => state.records);
  const isChosen = useChosen((state) => state.trackId === track.id);
  const muted = useOwnHearing((state) => state.muted.has(track.id));
  const soloed = useOwnHearing((state) => state.soloed.has(track.id));
  const section = useBalance((state) => state.sections[track.id]);
  const trouble = useBalance((state) => state.troubles[track.id]);
  const figures = section?.figures;
  const heard = 'grid size-6 shrink-0 place-items-center rounded-sm text-xs';
  return (
    <tr
      className={`border-b border-rule-soft ${isChosen ? 'bg-raised' : ''} ${track.muted ? 'opacity-60' : ''}`}
    >
      <th scope="row" className="py-px pl-3 text-left align-middle font-normal">
        <span className="flex items-center gap-0.5">
          <button
            type="button"
            className={`min-h-6 min-w-0 flex-1 truncate text-left hover:underline ${isChosen ? 'font-semibold' : ''}`}
            title={track.name}
            onClick={() => choose(track.id)}
          >
            {track.name}
          </button>
          <button
            type="button"
            aria-pressed={muted}
            aria-label={`Mute ${track.name} for yourself`}
            title="Mute for yourself"
            className={`${heard} ${muted ? 'bg-warm-tint font-bold text-warm' : 'text-ink-3'}`}
            onClick={() => toggleOwnHearing('muted', track.id)}
          >
            m
          </button>
          <button
            type="button"
            aria-pressed={soloed}
            aria-label={`Hear ${track.name} alone`}
            title="Hear alone"
            className={`${heard} ${soloed ? 'bg-cool-tint font-bold text-cool' : 'text-ink-3'}`}
            onClick={() => toggleOwnHearing('soloed', track.id)}
          >
            s
          </button>
        </span>
      </th>
      <td className="align-middle">
        <DistanceRuler trackId={track.id} name={track.name} mayEdit={mayEdit} />
      </td>
      {columns.map(({ id, name }) => {
        const cell = { trackId: track.id, positionId: id };
        const mix = cellOf(records, cell);
        return (
          <td key={id} className="px-0.5">
            {mix && <CellRuler cell={cell} mix={mix} name={`${track.name}, ${name}`} mayEdit={mayEdit} />}
          </td>
        );
      })}
      {trouble ? (
        <td colSpan={3} className="pr-1 text-xs text-warm" title={trouble}>
          not measured
        </td>
      ) : section?.isSilent ? (
        <td colSpan={3} className="pr-1 text-right text-xs text-ink-3">
          rests here
        </td>
      ) : (
        <>
          <td className="pr-1 text-right text-xs">{figures ? lufs(figures.loudness) : ''}</td>
          <td className="pr-1 text-right text-xs">{figures ? signed(figures.depthDb) : ''}</td>
          <td className="pr-1 text-right text-xs">{figures ? signed(figures.sideDb) : ''}</td>
        </>
      )}
      <td className="pr-3 text-right text-xs text-ink-2">
        <SectionMemory track={track} />
      </td>
    </tr>
  );
}

/** What a section holds: its loaded techniques from the positions that are heard. */
function SectionMemory({ track }: { track: Item<'track'> }) {
  const load = useInstruments((state) => state.loads[track.instrumentId ?? '']);
  const bytes = useMemo(
    () =>
      load &&
      memoryBytes(
        load.instrument,
        new Set(
          load.instrument.articulations
            .filter(({ id }) => load.wanted.has(id))
            .flatMap((one) => [
              ...samplesOf(
                one,
                load.instrument.positions.map(({ id }) => id),
              ),
            ])
            .filter((id) => load.audio.has(id)),
        ),
      ),
    [load],
  );
  return <>{bytes === undefined ? '' : megabytes(bytes)}</>;
}
