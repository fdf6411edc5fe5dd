import type { MiddleC } from '#core/music/index.ts';
import { READINGS, type Reading } from '#core/report/index.ts';
import { loadRate, useInstruments } from '../../../sound/instruments.ts';
import { useListening } from '../../../sound/listening.ts';
import { megabytes } from '../../../ui/megabytes.ts';
import type { Contender } from '../contenders.ts';
import { hearingName, toggleHearing } from './hear-it.ts';
import type { MeasuredContender } from './measured-contender.ts';

/** Every figure with what it means for a player; press one to hear it. */
export function ReadingTable({
  list,
  position,
  middleC,
}: {
  list: readonly MeasuredContender[];
  position: string | undefined;
  middleC: MiddleC;
}) {
  const lines = READINGS.map((kind) => ({
    kind,
    cells: list.map(({ report, all }) => (report ? kind.read({ report, all, position, middleC }) : null)),
  })).filter(({ cells }) => cells.some((cell) => cell !== null));
  return (
    <table className="mt-3 w-full table-fixed border-collapse">
      <thead>
        <tr className="border-b border-rule text-left text-ink-3">
          <th scope="col" className="w-44 py-0.5 font-normal">
            Reading
          </th>
          {list.map(({ contender }) => (
            <th key={contender.id} scope="col" className="py-0.5 font-serif font-semibold text-ink">
              {contender.letter}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {lines.map(({ kind, cells }) => (
          <tr key={kind.id} className="border-b border-rule-soft align-top">
            <th scope="row" className="py-0.5 text-left font-normal">
              {kind.name}
            </th>
            {cells.map((cell, i) => (
              <td key={list[i].contender.id} className="py-0.5 pr-3">
                {cell === null ? (
                  <span className="text-ink-3">—</span>
                ) : (
                  <Figure contender={list[i].contender} reading={cell} />
                )}
              </td>
            ))}
          </tr>
        ))}
        <Costs list={list} />
      </tbody>
    </table>
  );
}

function Figure({ contender, reading }: { contender: Contender; reading: Reading }) {
  const { figure, meaning, hear } = reading;
  const name = hear ? hearingName(contender, hear) : '';
  const sounding = useListening((state) => name !== '' && state.sounding === name);
  const waiting = useListening((state) => name !== '' && state.waiting === name);
  const text = (
    <>
      <span className={sounding ? 'font-semibold text-cool' : ''}>{figure}</span>{' '}
      <span className="text-ink-3">{waiting ? 'coming …' : meaning}</span>
    </>
  );
  if (!hear) return <span>{text}</span>;
  return (
    <button
      type="button"
      className="min-h-6 text-left hover:text-cool"
      title={`Hear it. ${meaning}`}
      onClick={() => toggleHearing(contender, hear)}
    >
      {text}
    </button>
  );
}

/** Memory of the technique, and how long it takes to come, by the speed measured on this machine. */
function Costs({ list }: { list: readonly MeasuredContender[] }) {
  // The speed is known once something was loaded.
  useInstruments((state) => state.loads);
  const rate = loadRate();
  return (
    <tr className="align-top">
      <th scope="row" className="py-0.5 text-left font-normal">
        Memory, loading
      </th>
      {list.map(({ contender, report }) => (
        <td key={contender.id} className="py-0.5 pr-3">
          {report ? (
            <>
              {megabytes(report.bytes)}{' '}
              <span className="text-ink-3">
                {rate
                  ? `about ${(report.bytes / rate).toFixed(1)} s at the ${Math.round(rate / 1e6)} MB/s measured here`
                  : 'nothing was loaded yet to measure the speed by'}
              </span>
            </>
          ) : (
            <span className="text-ink-3">—</span>
          )}
        </td>
      ))}
    </tr>
  );
}
