import { useEffect, useState } from 'react';
import { ChevronDown, ChevronUp } from 'lucide-react';
import { toast } from 'sonner';
import type { ArticulationGroup } from '#core/catalogue/index.ts';
import { articulationTerm, byNearness, positionName } from '#core/catalogue/index.ts';
import { useList } from '../../../state/documents.ts';
import { lookAtReport, measure, stopMeasuring, useReports } from '../../../state/reports.ts';
import { useMayEdit } from '../../../state/session.ts';
import { Button } from '../../../ui/button.tsx';
import { Choice } from '../../../ui/field.tsx';
import { Notice } from '../../../ui/heading.tsx';
import { contenderName, type Contender } from '../contenders.ts';
import { foldMeasured, useListen } from '../listen-state.ts';
import { techniqueOf, type PhraseRow } from '../rows.ts';
import { Charts } from './charts.tsx';
import type { MeasuredContender } from './measured-contender.ts';
import { FindingList } from './finding-list.tsx';
import { ReadingTable } from './reading-table.tsx';

const GROUP_OF_ROW: Record<string, ArticulationGroup> = {
  long: 'long',
  short: 'short',
  connected: 'connected',
};

/** The measured report of all contenders side by side: small charts, readings, findings. */
export function Measured({
  contenders,
  row,
  suits,
}: {
  contenders: readonly Contender[];
  row: PhraseRow | undefined;
  suits: string | undefined;
}) {
  const open = useListen((state) => state.measured);
  return (
    <section
      aria-label="Measured"
      className={`flex min-h-0 flex-col border-t border-rule ${open ? 'h-[46%]' : ''}`}
    >
      <div className="flex items-center gap-2 px-3 py-1">
        <h2 className="font-serif text-[15px] font-semibold">Measured</h2>
        {open && <Legend contenders={contenders} />}
        <div className="flex-1" />
        <button
          type="button"
          aria-expanded={open}
          aria-label={open ? 'Fold the measured report away' : 'Unfold the measured report'}
          onClick={() => foldMeasured(!open)}
          className="grid size-6 place-items-center text-ink-2"
        >
          {open ? <ChevronDown size={15} aria-hidden /> : <ChevronUp size={15} aria-hidden />}
        </button>
      </div>
      {open && <MeasuredBody contenders={contenders} row={row} suits={suits} />}
    </section>
  );
}

const STROKES = ['solid', 'bold', 'dashed', 'dotted', 'dash-dotted', 'fine'];

function Legend({ contenders }: { contenders: readonly Contender[] }) {
  return (
    <span className="truncate text-ink-3">
      {contenders
        .slice(0, STROKES.length)
        .map((one, i) => `${one.letter} ${STROKES[i]}`)
        .join(', ')}{' '}
      · press a finding or a figure to hear it
    </span>
  );
}

function MeasuredBody({
  contenders,
  row,
  suits,
}: {
  contenders: readonly Contender[];
  row: PhraseRow | undefined;
  suits: string | undefined;
}) {
  const reports = useReports((state) => state.reports);
  const middleC = useList('template')[0]?.middleC ?? 4;
  const chosen = useListen((state) => state.contender);
  const [group, setGroup] = useState<string>('');
  const [position, setPosition] = useState('');
  const ids = [...new Set(contenders.map((one) => one.instrumentId))].join();
  useEffect(() => {
    for (const id of ids.split(',').filter(Boolean)) lookAtReport(id);
  }, [ids]);
  const wanted = (group || GROUP_OF_ROW[suits ?? ''] || 'long') as ArticulationGroup;
  const list: MeasuredContender[] = contenders.map((contender, slot) => {
    const all = reports[contender.instrumentId]?.reports ?? [];
    // A contender that is one technique is measured as that; a whole instrument with what plays the phrase.
    const technique = contender.articulation || techniqueOf(contender, wanted)?.id;
    return { contender, slot, all, report: all.find((one) => one.articulation === technique) };
  });
  const positions = [
    ...new Set(list.flatMap((one) => one.report?.positions.map((position) => position.id) ?? [])),
  ].sort(byNearness);
  const names = [
    ...new Set(list.flatMap((one) => (one.report ? [articulationTerm(one.report.articulation).name] : []))),
  ];
  return (
    <div className="min-h-0 flex-1 overflow-auto px-3 pb-3">
      <MeasuringLines contenders={contenders} />
      {list.some((one) => one.report) && (
        <div className="mb-2 flex items-center gap-3">
          <Choice
            label="Techniques"
            hideLabel
            value={group}
            onChange={(event) => setGroup(event.target.value)}
            options={[
              { value: '', text: row ? `as in “${row.name}”` : 'as in the phrase' },
              { value: 'long', text: 'long' },
              { value: 'short', text: 'short' },
              { value: 'connected', text: 'connected' },
            ]}
          />
          <i className="font-serif text-ink-2">{names.join(' / ')}</i>
          <div className="flex-1" />
          <Choice
            label="Position"
            value={position}
            onChange={(event) => setPosition(event.target.value)}
            options={[
              { value: '', text: 'nearest of each' },
              ...positions.map((id) => ({ value: id, text: positionName(id).toLowerCase() })),
            ]}
          />
        </div>
      )}
      <FindingList list={list} middleC={middleC} />
      {list.some((one) => one.report) && (
        <>
          <Charts list={list} position={position || undefined} chosen={chosen} middleC={middleC} />
          <ReadingTable list={list} position={position || undefined} middleC={middleC} />
        </>
      )}
    </div>
  );
}

/** What is not measured yet, and measuring under way. */
function MeasuringLines({ contenders }: { contenders: readonly Contender[] }) {
  const reports = useReports((state) => state.reports);
  const mayEdit = useMayEdit();
  const unique = contenders.filter(
    (one, i) => contenders.findIndex((other) => other.instrumentId === one.instrumentId) === i,
  );
  const unmeasured = unique.filter((one) => {
    const known = reports[one.instrumentId];
    return known && !known.trouble && known.missing.length > 0 && !known.job;
  });
  return (
    <>
      {unique.map((one) => {
        const known = reports[one.instrumentId];
        if (!known) return null;
        if (known.trouble)
          return (
            <Notice key={one.id} tone="warm">
              {contenderName(one)}: {known.trouble}{' '}
              <button type="button" className="underline" onClick={() => lookAtReport(one.instrumentId)}>
                Look again
              </button>
            </Notice>
          );
        if (!known.job) return null;
        return (
          <div key={one.id} role="status" className="mb-1.5 flex items-center gap-3">
            <span className="w-56 truncate">
              Measuring {one.letter}, {one.summary?.name}
            </span>
            <progress className="h-2 w-40" max={1} value={known.job.progress} aria-label={known.job.title} />
            <span className="w-10 text-right text-ink-2">{Math.round(known.job.progress * 100)} %</span>
            <span className="min-w-0 flex-1 truncate text-ink-2">{known.job.message}</span>
            <Button
              look="loss"
              className="py-0"
              disabled={!mayEdit}
              title={mayEdit ? undefined : 'Somebody who may edit can give this up'}
              onClick={() =>
                void stopMeasuring(one.instrumentId).catch((error: Error) => toast.error(error.message))
              }
            >
              Cancel
            </Button>
          </div>
        );
      })}
      {unmeasured.length > 0 && (
        <div className="mb-2 flex items-center gap-3">
          <span className="text-ink-2">
            {unmeasured.map((one) => one.letter).join(', ')} {unmeasured.length === 1 ? 'is' : 'are'} not
            measured{' '}
            {unmeasured.some((one) => (reports[one.instrumentId]?.reports.length ?? 0) > 0) ? 'whole ' : ''}
            yet. Once measured, the figures are kept.
          </span>
          <Button look="main" onClick={() => unmeasured.forEach((one) => measure(one.instrumentId))}>
            Measure {unmeasured.length === 1 ? 'it' : 'them'}
          </Button>
        </div>
      )}
    </>
  );
}
