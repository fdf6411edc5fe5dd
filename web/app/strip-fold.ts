const FOLD_KEY = 'farlo-strip';
const LOW = 560;

/** Whether the playing strip stands open: in a low window it stays folded until it is asked for. */
export function isStripOpen(): boolean {
  return innerHeight >= LOW && localStorage.getItem(FOLD_KEY) !== 'folded';
}

/** Remembers whether it is folded away. */
export function rememberStrip(open: boolean): void {
  localStorage.setItem(FOLD_KEY, open ? 'open' : 'folded');
}
