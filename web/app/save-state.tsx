import { Popover as Radix } from 'radix-ui';
import type { DocumentKind } from '#api/index.ts';
import { decideAside, useDocuments } from '../state/documents.ts';
import type { SaveState } from '../state/sync.ts';
import { Button } from '../ui/button.tsx';
import { Notice } from '../ui/heading.tsx';

const NAMES: Record<DocumentKind, string> = {
  template: 'Template',
  cue: 'Cue',
  shelf: 'Shelf',
  house: 'Keymaps',
};
/** Worst first: the one word in the top line speaks of the document that needs most attention. */
const RANK: SaveState['kind'][] = ['gone', 'signed-out', 'away', 'saving', 'saved'];

const time = (at: number) =>
  new Date(at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit', hour12: false });
const edits = (left: number) => (left === 1 ? 'one edit' : `${left} edits`);

function sentenceOf(save: SaveState): string {
  switch (save.kind) {
    case 'saved':
      return save.at > 0 ? `saved, ${time(save.at)}` : 'saved';
    case 'saving':
      return `saving, ${edits(save.left)} on the way`;
    case 'away':
      return `the server does not answer; ${edits(save.left)} kept here until it does`;
    case 'signed-out':
      return `${edits(save.left)} kept here until you are signed in again`;
    case 'gone':
      return 'deleted by somebody';
  }
}

function wordOf(save: SaveState): string {
  switch (save.kind) {
    case 'saved':
      return save.at > 0 ? `Saved ${time(save.at)}` : 'Saved';
    case 'saving':
      return save.left > 1 ? `Saving ${save.left} …` : 'Saving …';
    case 'away':
    case 'signed-out':
      return 'Kept here';
    case 'gone':
      return 'Deleted';
  }
}

/** Where the edits of each open document stand, in a word; pressed, in sentences, with what was set aside. */
export function SaveStates() {
  const saves = useDocuments((state) => state.saves);
  const aside = useDocuments((state) => state.aside);
  const known = (Object.entries(saves) as [DocumentKind, SaveState | undefined][]).flatMap(([kind, save]) =>
    save ? [{ kind, save }] : [],
  );
  const worst = [...known].sort((a, b) => RANK.indexOf(a.save.kind) - RANK.indexOf(b.save.kind))[0];
  const latest = known.reduce((at, { save }) => (save.kind === 'saved' ? Math.max(at, save.at) : at), 0);
  const shown: SaveState = !worst || worst.save.kind === 'saved' ? { kind: 'saved', at: latest } : worst.save;
  const calm = aside.length === 0 && ['saved', 'saving'].includes(shown.kind);
  return (
    <Radix.Root>
      <span role="status" className="w-[80px] shrink-0 text-xs whitespace-nowrap">
        <Radix.Trigger
          title="Every edit is saved by itself. Press for each document."
          className={`min-h-6 ${calm ? 'text-ink-3 hover:text-ink' : 'font-semibold text-warm'}`}
        >
          {aside.length > 0 ? `${aside.length} set aside` : wordOf(shown)}
        </Radix.Trigger>
      </span>
      <Radix.Portal>
        <Radix.Content
          align="end"
          sideOffset={6}
          collisionPadding={8}
          className="z-30 w-[360px] max-w-[96vw] rounded-md border border-rule bg-raised p-3.5"
        >
          <dl className="grid grid-cols-[80px_minmax(0,1fr)] gap-y-1">
            {known.map(({ kind, save }) => (
              <div key={kind} className="contents">
                <dt className="text-ink-3">{NAMES[kind]}</dt>
                <dd>{sentenceOf(save)}</dd>
              </div>
            ))}
          </dl>
          {aside.length > 0 && (
            <section
              aria-label="Set aside"
              className="mt-3 max-h-[50vh] overflow-auto border-t border-rule-soft pt-2"
            >
              <h2 className="font-serif text-[15px] font-semibold">Set aside</h2>
              <p className="mb-1 text-xs text-ink-2">
                The server did not take these edits. They stay here until you decide.
              </p>
              {aside.map((one) => (
                <Notice key={one.id} tone="warm">
                  <b>{one.label}</b> ({NAMES[one.document].toLowerCase()}, {time(one.at)},{' '}
                  {one.deltas.length === 1 ? 'one change' : `${one.deltas.length} changes`}): {one.sentence}
                  <span className="mt-1 flex gap-2">
                    <Button className="py-0" onClick={() => decideAside(one, 'again')}>
                      Send again
                    </Button>
                    <Button className="py-0" look="loss" onClick={() => decideAside(one, 'discard')}>
                      Discard
                    </Button>
                  </span>
                </Notice>
              ))}
            </section>
          )}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
