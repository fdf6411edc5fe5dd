import { useEffect, useRef, type KeyboardEvent } from 'react';
import { X } from 'lucide-react';
import { dropWaiting, prepareRendering } from '../../sound/renderings.ts';
import { useRenderings, type RenderState } from '../../sound/renderings-state.ts';
import { stopListening, useListening } from '../../sound/listening.ts';
import { useList, type Item } from '../../state/documents.ts';
import { removeContender, removeOwnPhrase, togglePreference } from '../../state/listen.ts';
import { singleKeysOn } from '../../app/keys.ts';
import { useMayEdit } from '../../state/session.ts';
import { contenderName, type Contender } from './contenders.ts';
import { hearCell, isListening, toggleCell } from './hearing.ts';
import { useListen } from './listen-state.ts';
import { Outline } from './outline.tsx';
import type { PhraseRow } from './rows.ts';

const BACKGROUND_RANK = 10;

/** Phrases as rows, contenders as columns: press a cell to hear that phrase by that contender. */
export function LineUpTable({
  lineUp,
  contenders,
  rows,
}: {
  lineUp: Item<'lineUp'>;
  contenders: readonly Contender[];
  rows: readonly PhraseRow[];
}) {
  const phrase = useListen((state) => state.phrase);
  const contender = useListen((state) => state.contender);
  const blind = useListen((state) => state.blind);
  const mayEdit = useMayEdit();
  const preferences = useList('preference').filter((one) => one.lineUpId === lineUp.id);
  const table = useRef<HTMLTableElement>(null);
  useBackground(rows, phrase);
  const hidden = blind !== undefined && !blind.revealed;
  // In a blind round only its phrase can be heard, and columns stand in its own order.
  const shownRows = hidden ? rows.filter((row) => row.id === blind.phrase) : rows;
  const columns = (hidden ? blind.order : contenders.map((one) => one.id)).flatMap((id) => {
    const at = contenders.findIndex((one) => one.id === id);
    return at < 0 ? [] : [at];
  });
  const rowAt = Math.max(
    0,
    shownRows.findIndex((row) => row.id === phrase),
  );
  const columnAt = Math.max(
    0,
    columns.findIndex((at) => contenders[at].id === contender),
  );

  const choose = (row: number, column: number) => {
    const [to, at] = [shownRows[row], columns[column]];
    if (!to || at === undefined) return;
    useListen.setState({ phrase: to.id, contender: contenders[at].id });
    table.current?.querySelector<HTMLElement>(`[data-cell="${row} ${column}"]`)?.focus();
  };
  const move = (row: number, column: number) => {
    const r = Math.min(shownRows.length - 1, Math.max(0, row));
    const c = Math.min(columns.length - 1, Math.max(0, column));
    if (r === rowAt && c === columnAt) return;
    choose(r, c);
    if (isListening()) hearCell(shownRows[r], columns[c]);
  };
  const onKey = (event: KeyboardEvent) => {
    const acts: Record<string, () => void> = {
      ArrowLeft: () => move(rowAt, columnAt - 1),
      ArrowRight: () => move(rowAt, columnAt + 1),
      ArrowUp: () => move(rowAt - 1, columnAt),
      ArrowDown: () => move(rowAt + 1, columnAt),
      Home: () => move(rowAt, 0),
      End: () => move(rowAt, columns.length - 1),
      Enter: () => toggleCell(shownRows[rowAt], columns[columnAt]),
      ' ': () => toggleCell(shownRows[rowAt], columns[columnAt]),
      Escape: () => void stopListening(),
      p: () =>
        mayEdit &&
        !hidden &&
        togglePreference(lineUp.id, shownRows[rowAt].id, contenders[columns[columnAt]].id),
    };
    if (event.ctrlKey || event.metaKey || event.altKey || !(event.key in acts)) return;
    if (event.key === 'p' && !singleKeysOn()) return;
    event.preventDefault();
    event.stopPropagation();
    acts[event.key]();
  };

  return (
    <table
      ref={table}
      role="grid"
      aria-label={`Line-up ${lineUp.name}`}
      className="w-full table-fixed border-collapse"
      style={{ minWidth: 216 + columns.length * 150 }}
      onKeyDown={onKey}
    >
      <thead>
        <tr>
          <th
            scope="col"
            className="sticky top-0 z-10 w-[216px] bg-sheet px-3 py-1 text-left font-normal text-ink-3"
          >
            Phrase
          </th>
          {columns.map((at, i) => (
            <Head
              key={contenders[at].id}
              contender={contenders[at]}
              blindName={hidden ? `Sound ${i + 1}` : undefined}
              chosen={i === columnAt}
              order={shownRows[rowAt]?.cells[at]?.name}
              against={shownRows[rowAt]?.cells.find((cell) => cell !== undefined)?.name}
              onChoose={() => choose(rowAt, i)}
            />
          ))}
        </tr>
      </thead>
      <tbody>
        {shownRows.map((row, r) => (
          <tr key={row.id} className="border-t border-rule-soft">
            <th
              scope="row"
              title={row.tells}
              className={`truncate px-3 text-left ${r === rowAt ? 'font-semibold' : 'font-normal'}`}
            >
              <span className="flex items-center">
                <span className="min-w-0 flex-1 truncate">
                  {row.name} {!hidden && <i className="font-serif font-normal text-ink-2">{row.technique}</i>}
                </span>
                {row.own && mayEdit && (
                  <button
                    type="button"
                    aria-label={`Remove the phrase ${row.name}`}
                    onClick={() => removeOwnPhrase(row.id)}
                    className="grid size-6 place-items-center text-ink-3 hover:text-warm"
                  >
                    <X size={12} aria-hidden />
                  </button>
                )}
              </span>
            </th>
            {columns.map((at, c) => (
              <Cell
                key={contenders[at].id}
                place={`${r} ${c}`}
                row={row}
                column={at}
                name={
                  hidden ? `Sound ${c + 1}` : `${contenders[at].letter}, ${contenderName(contenders[at])}`
                }
                known={contenders[at].instrument !== undefined}
                hidden={hidden}
                trouble={contenders[at].trouble}
                chosen={r === rowAt && c === columnAt}
                preferred={
                  !hidden &&
                  preferences.some((one) => one.phrase === row.id && one.contenderId === contenders[at].id)
                }
                onPress={() => {
                  choose(r, c);
                  toggleCell(row, at);
                }}
              />
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Has everything that is shown rendered in the background, the chosen phrase first; another tempo drops what still waits. */
function useBackground(rows: readonly PhraseRow[], phrase: string | undefined): void {
  useEffect(() => {
    dropWaiting(BACKGROUND_RANK);
    rows.forEach((row, i) => {
      for (const order of row.cells)
        if (order) prepareRendering(order, row.id === phrase ? BACKGROUND_RANK : BACKGROUND_RANK + 1 + i);
    });
    // Choosing another phrase only changes what comes first.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [rows]);
  useEffect(() => () => dropWaiting(BACKGROUND_RANK), []);
}

function Head({
  contender,
  blindName,
  chosen,
  order,
  against,
  onChoose,
}: {
  contender: Contender;
  blindName: string | undefined;
  chosen: boolean;
  order: string | undefined;
  against: string | undefined;
  onChoose: () => void;
}) {
  const mayEdit = useMayEdit();
  return (
    <th
      scope="col"
      className={`sticky top-0 z-10 border-b-2 bg-sheet px-2 py-1 text-left font-normal ${chosen ? 'border-cool' : 'border-transparent'}`}
    >
      {blindName === undefined ? (
        <>
          <span className="flex items-center gap-1.5">
            <button
              type="button"
              className="min-h-6 min-w-0 flex-1 truncate text-left hover:text-cool"
              title={`${contenderName(contender)} · ${contender.library?.name ?? ''}`}
              onClick={onChoose}
            >
              <b className="mr-1.5 font-serif text-[15px]">{contender.letter}</b>
              {contenderName(contender)}
            </button>
            {mayEdit && (
              <button
                type="button"
                aria-label={`Take ${contenderName(contender)} out of the line-up`}
                title="Take it out of the line-up"
                onClick={() => removeContender(contender.id)}
                className="grid size-6 shrink-0 place-items-center text-ink-3 hover:text-warm"
              >
                <X size={13} aria-hidden />
              </button>
            )}
          </span>
          <span className="flex justify-between gap-2 text-xs text-ink-3">
            <span className="truncate">{contender.library?.name}</span>
            <Offset order={order} against={against} />
          </span>
        </>
      ) : (
        <b className="font-serif text-[15px]">{blindName}</b>
      )}
    </th>
  );
}

/** What makes a contender as loud as the first one, in the chosen phrase. */
function Offset({ order, against }: { order: string | undefined; against: string | undefined }) {
  const offset = useOffset(order, against);
  if (offset === undefined) return null;
  return (
    <span
      className="shrink-0 text-ink-2"
      title="What is added in this phrase to make it as loud as the first contender"
    >
      {offset < 0 ? '−' : '+'}
      {Math.abs(offset).toFixed(1)} dB
    </span>
  );
}

/** Hook: offset in dB that makes one rendering as loud as another; undefined while either is not there or silent. */
export function useOffset(order: string | undefined, against: string | undefined): number | undefined {
  const own = useRenderings((state) => loudnessOf(state.states[order ?? '']));
  const first = useRenderings((state) => loudnessOf(state.states[against ?? '']));
  return own === undefined || first === undefined ? undefined : first - own;
}

function loudnessOf(state: RenderState | undefined): number | undefined {
  return state?.kind === 'ready' && Number.isFinite(state.lufs) ? state.lufs : undefined;
}

function Cell({
  place,
  row,
  column,
  name,
  known,
  hidden,
  trouble,
  chosen,
  preferred,
  onPress,
}: {
  place: string;
  row: PhraseRow;
  column: number;
  name: string;
  /** Whether its instrument's description is here. */
  known: boolean;
  hidden: boolean;
  trouble: string | undefined;
  chosen: boolean;
  preferred: boolean;
  onPress: () => void;
}) {
  const order = row.cells[column]?.name;
  const state = useRenderings((all) => (order === undefined ? undefined : all.states[order]));
  const sounding = useListening((all) => order !== undefined && all.sounding === order);
  const waiting = useListening((all) => order !== undefined && all.waiting === order);
  const failed = useListening((all) => (all.trouble?.name === order ? all.trouble?.sentence : undefined));
  const sentence = failed ?? trouble ?? (state?.kind === 'failed' ? state.message : undefined);
  return (
    <td
      role="gridcell"
      aria-selected={chosen}
      className={`p-0 ${sounding ? 'bg-cool-tint' : ''} ${chosen ? 'outline-2 -outline-offset-2 outline-cool' : ''}`}
    >
      <button
        type="button"
        data-cell={place}
        tabIndex={chosen ? 0 : -1}
        disabled={order === undefined}
        title={sentence}
        aria-label={`${row.name} by ${name}${sounding ? ', sounding' : ''}${preferred ? ', preferred' : ''}${sentence ? `: ${sentence}` : ''}`}
        onClick={onPress}
        className="flex h-[27px] w-full items-center gap-2 px-2 text-left focus-visible:outline-none! disabled:cursor-default"
      >
        {sentence !== undefined ? (
          <span className="truncate text-warm">{sentence}</span>
        ) : order === undefined ? (
          <span className="text-xs text-ink-3">{known ? 'no fitting technique' : STATE_WORDS.waiting}</span>
        ) : hidden ? (
          <span className="flex-1 text-ink-3">press to hear</span>
        ) : state?.kind === 'ready' ? (
          <Outline outline={state.outline} seconds={state.seconds} sounding={sounding} />
        ) : (
          <span className="flex-1 text-xs text-ink-3">{STATE_WORDS[state?.kind ?? 'waiting']}</span>
        )}
        {waiting ? (
          <span className="shrink-0 text-xs text-cool">coming …</span>
        ) : sounding ? (
          <span className="shrink-0 text-xs font-semibold text-cool">sounding</span>
        ) : preferred ? (
          <i className="shrink-0 font-serif text-ink">preferred</i>
        ) : null}
      </button>
    </td>
  );
}

const STATE_WORDS: Record<string, string> = {
  waiting: '…',
  loading: 'loading …',
  rendering: 'rendering …',
};
