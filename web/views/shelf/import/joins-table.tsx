import { POSITION_IDS, positionName } from '#core/catalogue/index.ts';
import { Choice } from '../../../ui/field.tsx';
import type { JoinRow, JoinSaid } from './reading.ts';

/** Files that look like positions of one instrument: joined or taken in apart, each at the position that is said. */
export function JoinsTable({
  joins,
  onChange,
}: {
  joins: readonly JoinRow[];
  onChange: (name: string, said: JoinSaid) => void;
}) {
  return (
    <ul>
      {joins.map(({ name, reason, isJoined, files, trouble }) => (
        <li key={name} className="border-b border-rule-soft py-1.5">
          <label className="flex items-baseline gap-2">
            <input
              type="checkbox"
              checked={isJoined}
              onChange={(event) => onChange(name, { isJoined: event.target.checked })}
            />
            <span className="font-semibold">{name} as one instrument</span>
            <span className="min-w-0 flex-1 text-xs text-ink-3">{reason}</span>
          </label>
          {isJoined && (
            <div className="mt-1 grid grid-cols-[repeat(auto-fill,minmax(320px,1fr))] gap-x-6 gap-y-1 pl-6">
              {files.map(({ file, position }) => (
                <div key={file} className="flex items-center justify-between gap-3">
                  <span className="min-w-0 truncate" title={file}>
                    {file}
                  </span>
                  <Choice
                    label={`Position of ${file}`}
                    hideLabel
                    value={position}
                    onChange={(event) =>
                      onChange(name, {
                        positions: Object.fromEntries(
                          files.map((one) => [
                            one.file,
                            one.file === file ? event.target.value : one.position,
                          ]),
                        ),
                      })
                    }
                    options={[
                      ...[...new Set([...POSITION_IDS, ...(position === '' ? [] : [position])])].map(
                        (id) => ({
                          value: id,
                          text: positionName(id).toLowerCase(),
                        }),
                      ),
                      { value: '', text: 'an instrument of its own' },
                    ]}
                  />
                </div>
              ))}
            </div>
          )}
          {isJoined && trouble && (
            <p role="alert" className="pl-6 text-xs text-warm">
              {trouble}
            </p>
          )}
        </li>
      ))}
    </ul>
  );
}
