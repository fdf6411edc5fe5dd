import { useMemo } from 'react';
import { Play } from 'lucide-react';
import type { InstrumentKind } from '#core/catalogue/index.ts';
import type { MiddleC } from '#core/music/index.ts';
import { ADVICE, findingsOf, siblingsOf, type Finding, type ReportedInstrument } from '#core/report/index.ts';
import { useListening } from '../../../sound/listening.ts';
import { useReports } from '../../../state/reports.ts';
import { GroupTitle } from '../../../ui/heading.tsx';
import { contenderName, type Contender } from '../contenders.ts';
import { hearingName, toggleHearing } from './hear-it.ts';
import type { MeasuredContender } from './measured-contender.ts';

/** What stands out in each contender, in sentences; pressing one plays it. */
export function FindingList({ list, middleC }: { list: readonly MeasuredContender[]; middleC: MiddleC }) {
  const unique = list.filter(
    ({ contender }, i) =>
      list.findIndex((other) => other.contender.instrumentId === contender.instrumentId) === i,
  );
  return unique.map((one) =>
    one.all.length > 0 ? (
      <InstrumentFindings key={one.contender.id} contender={one.contender} middleC={middleC} />
    ) : null,
  );
}

function InstrumentFindings({ contender, middleC }: { contender: Contender; middleC: MiddleC }) {
  const reports = useReports((state) => state.reports);
  const findings = useMemo(() => {
    const { summary, library } = contender;
    const known = (one: { id: string; name: string; kind: string }): ReportedInstrument => ({
      name: one.name,
      kind: one.kind as InstrumentKind,
      reports: reports[one.id]?.reports ?? [],
    });
    if (!summary || !library) return [];
    return findingsOf(known(summary), siblingsOf(summary, library.instruments).map(known), { middleC });
  }, [contender, reports, middleC]);
  return (
    <section aria-label={`Findings of ${contenderName(contender)}`}>
      <GroupTitle>
        {contender.letter} · {contender.summary?.name}
      </GroupTitle>
      {findings.length === 0 ? (
        <p className="text-ink-2">Nothing stands out in what was measured.</p>
      ) : (
        <ul>
          {findings.map((finding) => (
            <FindingLine
              key={`${finding.code} ${finding.articulation ?? ''} ${finding.position ?? ''} ${finding.figure}`}
              contender={contender}
              finding={finding}
            />
          ))}
        </ul>
      )}
    </section>
  );
}

function FindingLine({ contender, finding }: { contender: Contender; finding: Finding }) {
  const { hear } = finding;
  const name = hear ? hearingName(contender, hear) : '';
  const sounding = useListening((state) => name !== '' && state.sounding === name);
  const waiting = useListening((state) => name !== '' && state.waiting === name);
  const trouble = useListening((state) =>
    name !== '' && state.trouble?.name === name ? state.trouble.sentence : undefined,
  );
  const edge = finding.weight === 'fault' ? 'border-warm' : 'border-straw';
  return (
    <li className={`my-1.5 border-l-[3px] ${edge} pl-2.5`}>
      {finding.sentence}{' '}
      {hear && (
        <button
          type="button"
          className="inline-flex min-h-6 items-center gap-1 text-cool underline"
          onClick={() => toggleHearing(contender, hear)}
        >
          <Play size={10} aria-hidden />
          {sounding ? 'stop' : waiting ? 'coming …' : 'hear it'}
          <span className="sr-only">: {finding.figure}</span>
        </button>
      )}
      <span className="block text-ink-2">{ADVICE[finding.code]}</span>
      {trouble && <span className="block text-warm">{trouble}</span>}
    </li>
  );
}
