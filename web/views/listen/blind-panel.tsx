import { shuffledOrder, tallyOf } from '#core/listen/index.ts';
import { stopListening } from '../../sound/listening.ts';
import { useList, type Item } from '../../state/documents.ts';
import { addBlindRound, forgetBlindRounds } from '../../state/listen.ts';
import { useMayEdit } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';
import { contenderName, type Contender } from './contenders.ts';
import { useListen } from './listen-state.ts';
import type { PhraseRow } from './rows.ts';

/** Begins a blind round with the chosen phrase. */
export function beginBlind(rows: readonly PhraseRow[], contenders: readonly Contender[]): void {
  const { phrase } = useListen.getState();
  const row = rows.find((one) => one.id === phrase) ?? rows[0];
  if (!row) return;
  // Who cannot play the phrase would give itself away.
  const able = contenders.filter((_, i) => row.cells[i] !== undefined);
  const order = shuffledOrder(able.length, crypto.getRandomValues(new Uint32Array(1))[0]);
  useListen.setState({
    phrase: row.id,
    contender: able[order[0]]?.id,
    blind: { phrase: row.id, order: order.map((i) => able[i].id), ranking: [], revealed: false },
  });
}

/** Choosing or ranking without names, the reveal, and what all rounds say together. */
export function BlindPanel({
  lineUp,
  contenders,
  rows,
}: {
  lineUp: Item<'lineUp'>;
  contenders: readonly Contender[];
  rows: readonly PhraseRow[];
}) {
  const blind = useListen((state) => state.blind);
  const mayEdit = useMayEdit();
  if (!blind) return null;
  const { order, ranking, revealed } = blind;
  const rank = (id: string) => {
    const next = ranking.includes(id) ? ranking.filter((one) => one !== id) : [...ranking, id];
    useListen.setState({ blind: { ...blind, ranking: next } });
  };
  const reveal = () => {
    stopListening();
    // With all but one in their places, the last one's is known too.
    const rest = order.filter((id) => !ranking.includes(id));
    const full = ranking.length > 1 && rest.length === 1 ? [...ranking, ...rest] : ranking;
    if (mayEdit) addBlindRound(lineUp.id, blind.phrase, full);
    useListen.setState({ blind: { ...blind, ranking: full, revealed: true } });
  };
  return (
    <section aria-label="Blind round" className="border-b border-rule bg-ground px-3 py-2">
      <div className="flex flex-wrap items-center gap-2">
        <span className="text-ink-2">
          {revealed
            ? 'Revealed:'
            : ranking.length === 0
              ? 'Listen, then name the best; go on to rank the others if you like.'
              : 'Best so far, in order:'}
        </span>
        {order.map((id, i) => {
          const place = ranking.indexOf(id);
          const contender = contenders.find((one) => one.id === id);
          if (revealed)
            return (
              <span key={id} className="rounded-md border border-rule bg-sheet px-2.5 py-1">
                {place >= 0 && <b>{place + 1}. </b>}
                Sound {i + 1} was{' '}
                <b className="font-serif">
                  {contender?.letter}, {contender && contenderName(contender)}
                </b>
              </span>
            );
          return (
            <Button key={id} pressed={place >= 0} onClick={() => rank(id)}>
              {place >= 0 && <b>{place + 1}.</b>}
              Sound {i + 1}
            </Button>
          );
        })}
        <div className="flex-1" />
        {revealed ? (
          <Button look="main" onClick={() => beginBlind(rows, contenders)}>
            Another round
          </Button>
        ) : (
          <Button look="main" disabled={ranking.length === 0} onClick={reveal}>
            Reveal
          </Button>
        )}
        <Button onClick={() => (stopListening(), useListen.setState({ blind: undefined }))}>End</Button>
      </div>
      {revealed && <BlindTally lineUp={lineUp} contenders={contenders} />}
      {revealed && !mayEdit && (
        <p className="mt-1 text-ink-3">Viewers may listen; their rounds are not kept.</p>
      )}
    </section>
  );
}

function BlindTally({ lineUp, contenders }: { lineUp: Item<'lineUp'>; contenders: readonly Contender[] }) {
  const mayEdit = useMayEdit();
  const rounds = useList('blindRound')
    .filter((one) => one.lineUpId === lineUp.id)
    .map((one) => ({ ranking: one.ranking.split('|') }));
  if (rounds.length === 0) return null;
  const tally = tallyOf(
    contenders.map((one) => one.id),
    rounds,
  );
  const percent = tally.chance < 0.01 ? '< 1' : String(Math.round(tally.chance * 100));
  return (
    <div className="mt-2 flex flex-wrap items-baseline gap-x-5 gap-y-1" role="status">
      <span>
        After {tally.rounds} {tally.rounds === 1 ? 'round' : 'rounds'}:
      </span>
      {tally.lines.map((line, i) => (
        <span key={line.contender}>
          <b className="font-serif">{contenders[i].letter}</b> {contenderName(contenders[i])}: {line.firsts} ×
          first
          {line.meanPlace === null ? '' : `, place ${line.meanPlace.toFixed(1)} on average`}
        </span>
      ))}
      <span className={tally.beatsGuessing ? 'font-semibold' : 'text-ink-2'}>
        {tally.beatsGuessing
          ? `This beats guessing: by chance it would come about in ${percent} % of cases.`
          : `Guessing alone would give as much in ${percent} % of cases: no proof yet.`}
      </span>
      {mayEdit && (
        <Button look="quiet" className="py-0" onClick={() => forgetBlindRounds(lineUp.id)}>
          Forget these rounds
        </Button>
      )}
    </div>
  );
}
