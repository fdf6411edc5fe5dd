import { Circle } from 'lucide-react';
import { useEffect } from 'react';
import { usePageTitle } from '../../app/page-title.ts';
import { cancelMeasuring, followBalance, measureAll, useBalance } from '../../sound/balance.ts';
import { passageTicks } from '../../sound/passage.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { whatIsMissing } from '../../sound/readiness.ts';
import { useInstruments } from '../../sound/instruments.ts';
import { metreOf } from '../../state/cue.ts';
import { useDocuments, useItem } from '../../state/documents.ts';
import { useMayEdit } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';
import { Pane, Panes } from '../../ui/panes.tsx';
import { choose, useChosen, useRiding, useSurface } from './balance-state.ts';
import { CellPane } from './cell-pane.tsx';
import { Matrix } from './matrix.tsx';
import { MixChoice } from './mix-choice.tsx';
import { SeatingPlan } from './seating-plan.tsx';
import { SectionPane } from './section-pane.tsx';
import { WholePane } from './whole-pane.tsx';

let follows = false;

/** Microphones across sections: levels, distance, aims, and what it amounts to, measured in a passage. */
export function BalanceView() {
  const template = useItem(
    'template',
    useDocuments((state) => state.templateId),
  );
  const { trackId, positionId } = useChosen();
  const track = useItem('track', trackId);
  const mayEdit = useMayEdit();
  const { surface } = useSurface();
  usePageTitle('Balance', template?.name);
  useEffect(() => {
    if (follows) return;
    follows = true;
    followBalance();
  }, []);
  return (
    <div className="flex h-full min-h-0 flex-col">
      <div className="flex flex-wrap items-center gap-2.5 border-b border-rule px-3 py-1.5">
        <h1 className="font-serif text-xl font-semibold">Balance</h1>
        <SurfaceChoice />
        <Measuring />
        <RecordMoves mayEdit={mayEdit} />
        <div className="flex-1" />
        <MixChoice mayEdit={mayEdit} />
      </div>
      <div className="min-h-0 flex-1">
        <Panes id="balance" names={['Border of the side pane']}>
          <Pane id="matrix" least={420}>
            {template ? (
              surface === 'levels' ? (
                <Matrix mayEdit={mayEdit} />
              ) : (
                <SeatingPlan mayEdit={mayEdit} />
              )
            ) : (
              <p className="p-8 text-ink-2">Open a cue or a template: its sections are balanced here.</p>
            )}
          </Pane>
          <Pane id="beside" size={284} least={220}>
            <aside aria-label="Beside the balance" className="h-full overflow-auto p-3.5">
              {track ? (
                <>
                  <button
                    type="button"
                    className="mb-1 min-h-6 text-xs text-cool underline"
                    onClick={() => choose(undefined)}
                  >
                    All sections and the hall
                  </button>
                  {positionId !== undefined && (
                    <CellPane track={track} positionId={positionId} mayEdit={mayEdit} />
                  )}
                  <SectionPane key={track.id} track={track} mayEdit={mayEdit} />
                </>
              ) : (
                <WholePane mayEdit={mayEdit} />
              )}
            </aside>
          </Pane>
        </Panes>
      </div>
    </div>
  );
}

/** Rulers moved while the cue plays become moves of it. */
function RecordMoves({ mayEdit }: { mayEdit: boolean }) {
  const { rides } = useRiding();
  return (
    <Button
      pressed={rides}
      disabled={!mayEdit}
      title="While this is pressed and the cue plays, levels that are moved are recorded as moves of the cue; the mix itself stays."
      className="py-0"
      onClick={() => useRiding.setState({ rides: !rides })}
    >
      <Circle size={11} aria-hidden className="text-warm" fill={rides ? 'currentColor' : 'none'} />
      Record moves
    </Button>
  );
}

/** Levels or seats on the main surface. */
function SurfaceChoice() {
  const { surface } = useSurface();
  return (
    <span role="group" aria-label="Main surface" className="flex">
      {(['levels', 'seating'] as const).map((one) => (
        <Button
          key={one}
          pressed={surface === one}
          className="py-0"
          onClick={() => useSurface.setState({ surface: one })}
        >
          {one === 'levels' ? 'Levels' : 'Seating'}
        </Button>
      ))}
    </span>
  );
}

/** Which passage is measured, and how far that has come. */
function Measuring() {
  const progress = useBalance((state) => state.progress);
  const measured = useBalance((state) => state.passage);
  const records = useDocuments((state) => state.records);
  // Looked at again as plans and recordings come.
  usePerformance((state) => state.plans);
  useInstruments((state) => state.loads);
  const { waiting } = whatIsMissing();
  const metre = metreOf(records);
  const [from, to] = passageTicks();
  const bars = `bars ${metre.toBarBeat(from).bar}–${metre.toBarBeat(Math.max(from, to - 1)).bar}`;
  if (progress)
    return (
      <span role="status" className="flex items-center gap-2 text-sm">
        Measuring {progress.done} of {progress.of} …
        <progress className="w-28" value={progress.done} max={progress.of} aria-label="Sections measured" />
        <Button onClick={cancelMeasuring}>Cancel</Button>
      </span>
    );
  const isOther = measured !== undefined && (measured[0] !== from || measured[1] !== to);
  return (
    <span className="flex items-center gap-2 text-sm text-ink-2">
      <Button
        look={measured ? 'plain' : 'main'}
        disabled={to <= from || waiting.length > 0}
        title="Renders every section in the passage by the engine and measures what it gives: the loop, or the first twelve seconds of the cue."
        onClick={() => void measureAll()}
      >
        Measure {bars}
      </Button>
      {waiting.length > 0 && <span className="text-xs text-ink-3">{waiting.length} still loading …</span>}
      {isOther && <span className="text-xs text-straw">The figures are of another passage.</span>}
    </span>
  );
}
