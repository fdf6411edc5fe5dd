import type { ReactNode } from 'react';

/** The page for people who are not at work yet: name of the product and one thing to do. */
export function Entrance({ children, wide = false }: { children: ReactNode; wide?: boolean }) {
  return (
    <main className="grid h-full place-items-center overflow-auto p-4">
      <div className={`${wide ? 'w-[640px]' : 'w-[400px]'} max-w-full border border-rule bg-sheet p-8`}>
        <p className="font-serif text-[30px] leading-none italic">Farlo</p>
        {children}
      </div>
    </main>
  );
}
