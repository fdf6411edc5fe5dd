import { FAMILY_TAG, type Family } from '#core/catalogue/index.ts';

/** Two letters for a family of instruments. */
export function FamilyTag({ family }: { family: string }) {
  const text = FAMILY_TAG[family as Family] ?? 'Ot';
  return (
    <span
      title={family}
      className="inline-block rounded-sm border border-rule px-1 text-xs leading-4 font-semibold text-ink-2"
    >
      {text}
    </span>
  );
}
