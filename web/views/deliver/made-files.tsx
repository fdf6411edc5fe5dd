import { Download, X } from 'lucide-react';
import { forgetFile, useMadeFiles } from '../../sound/made-files.ts';
import { Button } from '../../ui/button.tsx';
import { megabytes } from '../../ui/megabytes.ts';

/** A name as part of a file name. */
export const fileName = (name: string): string =>
  name.replace(/[^\p{L}\p{N}]+/gu, '-').replace(/^-|-$/g, '') || 'cue';

/** Files of this visit, ready to be saved. */
export function MadeFiles() {
  const files = useMadeFiles();
  return (
    <section aria-labelledby="made-files" className="h-full overflow-auto p-4">
      <h2 id="made-files" className="font-serif text-lg font-semibold">
        Files of this visit
      </h2>
      {files.length === 0 ? (
        <p className="mt-1 text-ink-2">
          Nothing yet. What you bounce or write appears here, ready to be saved.
        </p>
      ) : (
        <ul className="mt-2" aria-live="polite">
          {files.map((file) => (
            <li key={file.url} className="flex items-center gap-4 border-b border-rule-soft py-2">
              <div className="min-w-0 flex-1">
                <div className="font-semibold">{file.name}</div>
                <div className="text-ink-2">{file.about}</div>
              </div>
              <span className="text-ink-2">{megabytes(file.bytes)}</span>
              <a
                href={file.url}
                download={file.name}
                className="inline-flex min-h-6 items-center gap-1.5 rounded-md border border-rule bg-raised px-2.5 py-1 hover:border-ink-3"
              >
                <Download size={14} aria-hidden />
                Save
              </a>
              <Button
                look="quiet"
                aria-label={`Take ${file.name} off the list`}
                title="Takes it off the list and off this browser's disk. What you have saved stays."
                onClick={() => forgetFile(file)}
              >
                <X size={14} aria-hidden />
              </Button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
