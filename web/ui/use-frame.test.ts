import { describe, expect, it } from 'vitest';
import { setStyle } from './use-frame.ts';

/** An element that counts how often its style is written. */
function counting() {
  const writes: string[] = [];
  const style = new Proxy({} as Record<string, string>, {
    set: (_, name, value) => writes.push(`${String(name)}: ${String(value)}`) > 0,
  });
  return { element: { style } as unknown as HTMLElement, writes };
}

describe('a style that follows what plays', () => {
  it('is written when it changes, each property by itself, and not in every frame', () => {
    const { element, writes } = counting();
    for (const width of ['0%', '0%', '10%', '10%', '0%']) setStyle(element, 'width', width);
    setStyle(element, 'transform', '0%');
    expect(writes).toEqual(['width: 0%', 'width: 10%', 'width: 0%', 'transform: 0%']);
    setStyle(null, 'width', '5%');
  });
  it('is written anew to another element', () => {
    const [one, other] = [counting(), counting()];
    setStyle(one.element, 'width', '5%');
    setStyle(other.element, 'width', '5%');
    expect(other.writes).toEqual(['width: 5%']);
  });
});
