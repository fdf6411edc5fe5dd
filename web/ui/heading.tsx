import type { ReactNode } from 'react';

/** Title of a group in a side pane. */
export function GroupTitle({ children }: { children: ReactNode }) {
  return <h3 className="mt-4 mb-1 font-serif text-[15px] font-semibold first:mt-0">{children}</h3>;
}

/** A sentence with a coloured edge: something to know, and perhaps to mend. */
export function Notice({ tone, children }: { tone: 'warm' | 'straw' | 'cool'; children: ReactNode }) {
  const edge = { warm: 'border-warm', straw: 'border-straw', cool: 'border-cool' }[tone];
  return <div className={`my-1.5 border-l-[3px] ${edge} pl-2.5 text-sm text-ink`}>{children}</div>;
}
