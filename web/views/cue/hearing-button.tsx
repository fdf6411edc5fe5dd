/** Mutes, or hears alone, what its row is of. */
export function HearingButton({
  letter,
  isOn,
  label,
  title,
  isStop = true,
  onPress,
}: {
  letter: 'm' | 's';
  isOn: boolean;
  label: string;
  title: string;
  /** Whether the tab key stops there. */
  isStop?: boolean;
  onPress: () => void;
}) {
  const tone = letter === 'm' ? 'bg-warm-tint text-warm' : 'bg-straw-tint text-straw';
  return (
    <button
      type="button"
      tabIndex={isStop ? 0 : -1}
      aria-pressed={isOn}
      aria-label={label}
      title={title}
      onClick={onPress}
      className={`grid size-6 shrink-0 place-items-center text-xs ${isOn ? `rounded-sm font-bold ${tone}` : 'text-ink-3 hover:text-ink'}`}
    >
      {letter}
    </button>
  );
}
