import { useState, type ChangeEvent, type FocusEvent, type KeyboardEvent } from 'react';

/**
 * Hook: a field that is typed into. What was typed is taken over by Enter or when the field is left, put back by Escape; what is
 * refused stays, with the reason.
 * @param shown what the field shows while nothing is typed
 * @param take takes over what was typed; @returns a sentence where it cannot be meant
 */
export function useTyped(shown: string, take: (text: string) => string | undefined) {
  const [typed, setTyped] = useState<string>();
  const [wrong, setWrong] = useState<string>();
  const reset = () => {
    setTyped(undefined);
    setWrong(undefined);
  };
  const commit = () => {
    const refused = typed === undefined || typed === shown ? undefined : take(typed);
    setWrong(refused);
    if (refused === undefined) setTyped(undefined);
  };
  return {
    wrong,
    reset,
    field: {
      value: typed ?? shown,
      'aria-invalid': wrong !== undefined,
      onFocus: (event: FocusEvent<HTMLInputElement>) => event.target.select(),
      onChange: (event: ChangeEvent<HTMLInputElement>) => setTyped(event.target.value),
      onBlur: commit,
      onKeyDown: (event: KeyboardEvent) => {
        event.stopPropagation();
        if (event.key === 'Enter') commit();
        if (event.key === 'Escape') reset();
      },
    },
  };
}
