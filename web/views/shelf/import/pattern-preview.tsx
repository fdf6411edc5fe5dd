import { pitchName, type MiddleC } from '#core/music/index.ts';
import { NAME_PARTS, type NamedFile } from '#core/intake/index.ts';
import { Choice } from '../../../ui/field.tsx';
import { Notice } from '../../../ui/heading.tsx';

/** A pattern for file names, and at once what every file becomes by it. */
export function PatternPreview({
  pattern,
  middleC,
  named,
  known,
  onPattern,
  onMiddleC,
}: {
  pattern: string;
  middleC: MiddleC;
  named: NamedFile[] | string;
  /** The maker whose way of naming is remembered and used here. */
  known: string | undefined;
  onPattern: (pattern: string) => void;
  onMiddleC: (middleC: MiddleC) => void;
}) {
  const files = typeof named === 'string' ? [] : named;
  const good = files.filter((file) => file.problem === undefined).length;
  return (
    <>
      <div className="flex items-end gap-4">
        <label className="flex-1">
          <span className="text-xs text-ink-3">
            How the names are made: {NAME_PARTS.map((part) => `{${part}}`).join(' ')}
          </span>
          <input
            aria-label="Name pattern"
            className="w-full rounded-md border border-rule bg-raised px-2 py-1"
            value={pattern}
            maxLength={200}
            spellCheck={false}
            onChange={(event) => onPattern(event.target.value)}
          />
        </label>
        <Choice
          label="Middle C in the names"
          value={String(middleC)}
          onChange={(event) => onMiddleC(Number(event.target.value) as MiddleC)}
          options={[
            { value: '4', text: 'C4' },
            { value: '3', text: 'C3' },
          ]}
        />
      </div>
      {typeof named === 'string' ? (
        <Notice tone="warm">{named}</Notice>
      ) : (
        <p className="mt-1 text-xs text-ink-2" role="status">
          {good} of {files.length} files can be used
          {known !== undefined && ` · named as you set it for ${known} before`}
        </p>
      )}
      <div className="mt-1 max-h-[20vh] overflow-auto border border-rule">
        <table className="w-full border-collapse text-sm">
          <thead className="sticky top-0 bg-sheet text-left text-xs text-ink-3">
            <tr>
              <th className="px-2 py-1 font-normal">File</th>
              <th className="font-normal">Root</th>
              <th className="font-normal">What it becomes</th>
            </tr>
          </thead>
          <tbody>
            {files.slice(0, 300).map((file) => (
              <tr key={file.path} className="border-t border-rule-soft">
                <td className="max-w-64 truncate px-2 py-0.5" title={file.path}>
                  {file.path.split('/').at(-1)}
                </td>
                <td>{file.root === undefined ? '—' : pitchName(file.root)}</td>
                <td className={file.problem ? 'text-warm' : 'text-ink-2'}>
                  {file.problem ??
                    (['instrument', 'articulation', 'layer', 'take', 'position'] as const)
                      .flatMap((part) => (file.parts[part] ? [`${part} ${file.parts[part]}`] : []))
                      .join(' · ')}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}
