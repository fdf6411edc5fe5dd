import { POSITION_IDS, positionName, VOCABULARY } from '#core/catalogue/index.ts';
import { wordKey, type Meaning, type WordMeaning } from '#core/intake/index.ts';
import { pitchName } from '#core/music/index.ts';
import { HearSample } from './hear-sample.tsx';

const CELL = 'min-h-6 w-full rounded-md border border-rule bg-raised px-1 py-0.5 text-sm';

/** What each label or name part is taken to mean, and why; every guess can be corrected. */
export function WordsTable({
  importId,
  words,
  instruments,
  onChange,
}: {
  importId: string;
  words: readonly WordMeaning[];
  /** Whether words may also name the instrument (SoundFont presets). */
  instruments: boolean;
  onChange: (key: string, meaning: Partial<Meaning>) => void;
}) {
  return (
    <div className="max-h-[38vh] overflow-auto border border-rule">
      <table className="w-full border-collapse text-sm">
        <thead className="sticky top-0 bg-sheet text-left text-xs text-ink-3">
          <tr>
            <th className="px-2 py-1 font-normal">Word in the files</th>
            <th className="font-normal">Technique</th>
            <th className="font-normal">Position</th>
            <th className="w-16 font-normal">Layer</th>
            <th className="w-16 font-normal">Take</th>
            {instruments && <th className="font-normal">Instrument</th>}
            <th className="px-2 font-normal">Why</th>
          </tr>
        </thead>
        <tbody>
          {words.map((word) => (
            <WordRow
              key={wordKey(word)}
              importId={importId}
              word={word}
              instruments={instruments}
              onChange={onChange}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function WordRow({
  importId,
  word,
  instruments,
  onChange,
}: {
  importId: string;
  word: WordMeaning;
  instruments: boolean;
  onChange: (key: string, meaning: Partial<Meaning>) => void;
}) {
  const key = wordKey(word);
  const set = (meaning: Partial<Meaning>) => onChange(key, meaning);
  const number = (text: string, from: number) =>
    text === '' ? null : Math.max(0, Math.round(Number(text)) - from);
  return (
    <tr className="border-t border-rule-soft">
      <td className="px-2 py-1">
        <span className="flex items-center gap-1">
          {word.example !== null && <HearSample importId={importId} sample={word.example} name={word.text} />}
          <span className="font-semibold">{word.text}</span>
        </span>
        <span className="block text-xs text-ink-3">
          {word.kind} · {word.zones} × · {pitchName(word.keyLow)} to {pitchName(word.keyHigh)}
        </span>
      </td>
      <td className="pr-1">
        <select
          aria-label={`Technique of ${word.text}`}
          className={CELL}
          value={word.articulation ?? ''}
          onChange={(event) => set({ articulation: event.target.value || null })}
        >
          <option value="">—</option>
          {word.articulation !== null && !VOCABULARY.some(({ id }) => id === word.articulation) && (
            <option value={word.articulation}>{word.articulation}</option>
          )}
          {VOCABULARY.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </td>
      <td className="pr-1">
        <select
          aria-label={`Position of ${word.text}`}
          className={CELL}
          value={word.position ?? ''}
          onChange={(event) => set({ position: event.target.value || null })}
        >
          <option value="">—</option>
          {POSITION_IDS.map((id) => (
            <option key={id} value={id}>
              {positionName(id)}
            </option>
          ))}
        </select>
      </td>
      <td className="pr-1">
        <input
          aria-label={`Layer of ${word.text}, softest is 1`}
          type="number"
          min={1}
          max={99}
          placeholder="—"
          className={CELL}
          value={word.layer === null ? '' : word.layer + 1}
          onChange={(event) => set({ layer: number(event.target.value, 1) })}
        />
      </td>
      <td className="pr-1">
        <input
          aria-label={`Take of ${word.text}, the first is 1`}
          type="number"
          min={1}
          max={999}
          placeholder="—"
          className={CELL}
          value={word.take === null ? '' : word.take + 1}
          onChange={(event) => set({ take: number(event.target.value, 1) })}
        />
      </td>
      {instruments && (
        <td className="pr-1">
          <input
            aria-label={`Instrument of ${word.text}`}
            className={CELL}
            maxLength={120}
            placeholder={word.text}
            value={word.instrument ?? ''}
            onChange={(event) => set({ instrument: event.target.value || null })}
          />
        </td>
      )}
      <td className="px-2 text-xs text-ink-2">{word.reason}</td>
    </tr>
  );
}
