import { useId } from 'react';
import { stemNames } from '../../state/balance.ts';
import { useDocuments } from '../../state/documents.ts';
import { useTyped } from '../../ui/use-typed.ts';

/** The stem that something goes to when the cue is written in stems; empty is that of its family. */
export function StemField({
  stem,
  disabled,
  onCommit,
}: {
  /** Undefined where its positions go to several. */
  stem: string | undefined;
  disabled: boolean;
  onCommit: (stem: string) => void;
}) {
  const id = useId();
  const names = useDocuments((state) => stemNames(state.records).join('\n'));
  const { field } = useTyped(stem ?? '', (text) => {
    onCommit(text.trim());
    return undefined;
  });
  return (
    <label className="mt-2 flex items-center gap-2 text-sm" title="Deliver writes the cue in these stems.">
      Stem
      <input
        list={id}
        maxLength={60}
        disabled={disabled}
        placeholder={stem === undefined ? 'several' : 'that of its family'}
        className="h-6 min-w-0 flex-1 rounded-sm border border-rule bg-raised px-1.5"
        {...field}
      />
      <datalist id={id}>
        {names !== '' && names.split('\n').map((name) => <option key={name} value={name} />)}
      </datalist>
    </label>
  );
}
