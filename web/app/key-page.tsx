import { Dialog } from '../ui/dialog.tsx';
import { KEY_GROUPS, switchSingleKeys, useSingleKeys } from './keys.ts';

/** All keys, and the switch for single letters. */
export function KeyPage() {
  const { help, on } = useSingleKeys();
  if (!help) return null;
  return (
    <Dialog
      title="Keys"
      about="Everything can be done without a mouse. Tab goes from one place to the next."
      wide
      onClose={() => useSingleKeys.setState({ help: false })}
    >
      <div className="columns-1 gap-8 sm:columns-2 lg:columns-3">
        {KEY_GROUPS.map(({ where, lines }) => (
          <section key={where} className="mb-4 break-inside-avoid">
            <h3 className="mb-1 font-serif text-[15px] font-semibold">{where}</h3>
            <dl className="grid grid-cols-[104px_minmax(0,1fr)] gap-x-2 gap-y-0.5">
              {lines.map(({ keys, does, single }) => (
                <div key={keys + does} className="contents">
                  <dt className={`font-semibold ${single && !on ? 'text-ink-3 line-through' : ''}`}>
                    {keys}
                  </dt>
                  <dd className="text-ink-2">{does}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
      <label className="mt-3 flex items-center gap-2">
        <input type="checkbox" checked={on} onChange={(event) => switchSingleKeys(event.target.checked)} />
        Single letters and signs act as keys. Switch this off when you speak to the computer or press keys by
        accident.
      </label>
    </Dialog>
  );
}
