import { Children, type ReactNode } from 'react';
import { Group, Panel, Separator, useDefaultLayout } from 'react-resizable-panels';

interface PaneProps {
  id: string;
  children: ReactNode;
  /** Size at first, in pixels; without one it takes what is left. */
  size?: number;
  least: number;
}

/** One of several panes beside or above each other; to be used within `Panes`. */
export function Pane({ id, children, size, least }: PaneProps) {
  return (
    <Panel
      id={id}
      defaultSize={size}
      minSize={least}
      groupResizeBehavior={size === undefined ? undefined : 'preserve-pixel-size'}
      className="min-h-0 min-w-0"
    >
      {children}
    </Panel>
  );
}

/**
 * Panes with borders that are dragged, or moved by the arrow keys, and stay where they were put on this machine.
 * @param id names the arrangement in this browser
 */
export function Panes({
  id,
  orientation = 'horizontal',
  names,
  children,
}: {
  id: string;
  orientation?: 'horizontal' | 'vertical';
  /** What each border is called, first to last. */
  names: readonly string[];
  children: ReactNode;
}) {
  const panes = Children.toArray(children);
  const { defaultLayout, onLayoutChanged } = useDefaultLayout({
    id: `farlo-panes-${id}`,
    onlySaveAfterUserInteractions: true,
  });
  const upright = orientation === 'horizontal';
  return (
    <Group
      orientation={orientation}
      defaultLayout={defaultLayout}
      onLayoutChanged={onLayoutChanged}
      className="h-full min-h-0"
    >
      {panes.flatMap((pane, i) =>
        i === 0
          ? [pane]
          : [
              <Separator
                key={`border ${i}`}
                aria-label={names[i - 1]}
                className={`relative bg-rule outline-offset-0 transition-colors hover:bg-cool focus-visible:bg-cool ${upright ? 'w-px before:absolute before:inset-y-0 before:-inset-x-[3px]' : 'h-px before:absolute before:inset-x-0 before:-inset-y-[3px]'}`}
              />,
              pane,
            ],
      )}
    </Group>
  );
}
