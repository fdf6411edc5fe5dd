import { useEffect, useRef } from 'react';

/** Whoever wants the next frame; one request for all of them. */
const callbacks = new Set<{ current: () => void }>();
let requested: number | undefined;

function tick(): void {
  requested = requestAnimationFrame(tick);
  for (const { current } of callbacks) current();
}

/** Runs a callback in every animation frame while the component is shown. */
export function useFrame(callback: () => void): void {
  const latest = useRef(callback);
  useEffect(() => {
    latest.current = callback;
  });
  useEffect(() => {
    callbacks.add(latest);
    requested ??= requestAnimationFrame(tick);
    return () => {
      callbacks.delete(latest);
      if (callbacks.size > 0 || requested === undefined) return;
      cancelAnimationFrame(requested);
      requested = undefined;
    };
  }, []);
}

/** Sets an element's text when it is another one. */
export function setText(element: HTMLElement | null, text: string): void {
  if (element && element.textContent !== text) element.textContent = text;
}

type Moved = 'transform' | 'width' | 'visibility';
const written = new WeakMap<HTMLElement, Partial<Record<Moved, string>>>();

/** Sets a style that follows what plays when it is another one: in most frames, and for most rows, nothing moves. */
export function setStyle(element: HTMLElement | null, name: Moved, value: string): void {
  if (!element) return;
  const known = written.get(element) ?? {};
  if (known[name] === value) return;
  known[name] = value;
  written.set(element, known);
  element.style[name] = value;
}
