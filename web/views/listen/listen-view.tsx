import { useEffect } from 'react';
import { Link, useSearchParams } from 'react-router';
import { PHRASES } from '#core/listen/index.ts';
import { stopListening } from '../../sound/listening.ts';
import { useList } from '../../state/documents.ts';
import { BlindPanel } from './blind-panel.tsx';
import { useContenders, useLineUp } from './contenders.ts';
import { LineUpBar } from './line-up-bar.tsx';
import { LineUpTable } from './line-up-table.tsx';
import { useListen } from './listen-state.ts';
import { Measured } from './measured/measured.tsx';
import { PhraseMaker } from './phrase-maker.tsx';
import { ReferencePanel } from './reference-panel.tsx';
import { useRows } from './rows.ts';
import { Verdicts } from './verdicts.tsx';
import { VerdictPane } from './verdict-pane.tsx';
import { Pane, Panes } from '../../ui/panes.tsx';
import { usePageTitle } from '../../app/page-title.ts';
import { WalkPanel } from './walk-panel.tsx';

/** Audition and compare: contenders side by side, measured, judged. */
export function ListenView() {
  const lineUp = useLineUp();
  const contenders = useContenders();
  const rows = useRows(contenders);
  const { surface, phrase, contender, blind } = useListen();
  const own = useList('ownPhrase');
  useAskedLineUp();
  useEffect(
    () => () => {
      stopListening();
      useListen.setState({ blind: undefined });
    },
    [],
  );
  const row = rows.find((one) => one.id === phrase) ?? rows[0];
  const column = Math.max(
    0,
    contenders.findIndex((one) => one.id === contender),
  );
  const chosen = contenders[column];
  const suits = [...PHRASES, ...own].find((one) => one.id === row?.id)?.suits;
  const hidden = blind !== undefined && !blind.revealed;
  const withPane = surface !== 'verdicts';
  usePageTitle('Listen', lineUp?.name);
  return (
    <Panes
      key={String(withPane)}
      id={withPane ? 'listen' : 'listen-whole'}
      names={['Border of the side pane']}
    >
      <Pane id="work" least={380}>
        <div className="flex h-full min-h-0 min-w-0 flex-col">
          <LineUpBar lineUp={lineUp} contenders={contenders} rows={rows} />
          {surface === 'walk' && chosen ? (
            <WalkPanel contenders={contenders} />
          ) : surface === 'reference' && chosen ? (
            <ReferencePanel contenders={contenders} rows={rows} />
          ) : surface === 'verdicts' ? (
            <Verdicts />
          ) : surface === 'phrase' ? (
            <PhraseMaker />
          ) : lineUp && chosen ? (
            <>
              <BlindPanel lineUp={lineUp} contenders={contenders} rows={rows} />
              <div className="min-h-0 flex-1 overflow-auto">
                <LineUpTable lineUp={lineUp} contenders={contenders} rows={rows} />
              </div>
              {!hidden && <Measured contenders={contenders} row={row} suits={suits} />}
            </>
          ) : (
            <Empty />
          )}
        </div>
      </Pane>
      {withPane && (
        <Pane id="contender" size={288} least={200}>
          <aside aria-label="Contender" className="relative h-full min-h-0 overflow-auto p-3.5">
            {hidden ? (
              <p className="text-ink-2">
                Names, figures and verdicts come back when the round is revealed. Arrow keys move between the
                sounds without a gap.
              </p>
            ) : chosen ? (
              <VerdictPane key={chosen.id} contender={chosen} column={column} row={row} />
            ) : (
              <p className="text-ink-2">The chosen contender’s verdict and remarks stand here.</p>
            )}
          </aside>
        </Pane>
      )}
    </Panes>
  );
}

/** Shows the line-up that a link asks for. */
function useAskedLineUp(): void {
  const [search, setSearch] = useSearchParams();
  const asked = search.get('line-up');
  useEffect(() => {
    if (asked === null) return;
    useListen.setState({ lineUpId: asked, surface: 'line-up' });
    setSearch({}, { replace: true });
  }, [asked, setSearch]);
}

function Empty() {
  return (
    <div className="p-8 text-ink-2">
      <p>This line-up has no contenders yet.</p>
      <p className="mt-1">
        Choose an instrument on the{' '}
        <Link to="/shelf" className="text-cool underline">
          Shelf
        </Link>{' '}
        and press “Add to the line-up”, for all of it or for one technique. Two or more can then be heard side
        by side, equally loud, with the same phrases.
      </p>
    </div>
  );
}
