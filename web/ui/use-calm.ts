import { useEffect, useState } from 'react';

const CALM_MS = 150;

/** Hook: a value as it was when it last stood still for a moment: for what is dear to draw and need not follow a drag. */
export function useCalm<T>(value: T): T {
  const [calm, setCalm] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setCalm(value), CALM_MS);
    return () => clearTimeout(timer);
  }, [value]);
  return calm;
}
