import { useEffect, useMemo, useRef } from 'react';
import { useTheme } from '../../app/theme-choice.ts';
import { selectTrack } from '../../sound/hands.ts';
import { playheadTick } from '../../sound/playhead.ts';
import { partOf } from '../../state/cue.ts';
import { useDocuments, type Item } from '../../state/documents.ts';
import { useCalm } from '../../ui/use-calm.ts';
import { setStyle, useFrame } from '../../ui/use-frame.ts';
import { useSize } from '../../ui/use-size.ts';
import { FIRST_TICK, useEditor } from './editor/editor-state.ts';
import { fitCanvas, themeInks } from './editor/paint.ts';

const HEIGHT = 28;

/** The whole cue in little: the notes of one track. */
export function Overview({ track, end }: { track: Item<'track'>; end: number }) {
  const [frame, { width }] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const playhead = useRef<HTMLDivElement>(null);
  const notes = useCalm(useDocuments((state) => partOf(state.records, track.id).part.notes));
  const theme = useTheme((state) => state.theme);
  const span = useMemo(() => {
    const keys = notes.reduce(
      (range, { key }) => ({ low: Math.min(range.low, key), high: Math.max(range.high, key) }),
      { low: 127, high: 0 },
    );
    return { high: keys.high, keys: Math.max(12, keys.high - keys.low) };
  }, [notes]);
  useEffect(() => {
    const context = canvas.current && fitCanvas(canvas.current, width, HEIGHT);
    if (!canvas.current || !context) return;
    const inks = themeInks();
    context.clearRect(0, 0, width, HEIGHT);
    context.fillStyle = inks.ink2;
    for (const note of notes)
      context.fillRect(
        (note.startTick / end) * width,
        5 + ((span.high - note.key) / span.keys) * (HEIGHT - 12),
        Math.max(1.5, ((note.endTick - note.startTick) / end) * width - 1),
        2,
      );
  }, [width, notes, span, end, theme]);
  useFrame(() => {
    setStyle(playhead.current, 'transform', `translateX(${(playheadTick() / end) * width}px)`);
  });
  return (
    <div
      ref={frame}
      className="relative h-full min-w-0 flex-1 cursor-pointer overflow-hidden"
      aria-hidden
      onClick={(event) => {
        const box = event.currentTarget.getBoundingClientRect();
        selectTrack(track.id);
        useEditor.setState({
          startTick: Math.max(FIRST_TICK, ((event.clientX - box.left) / box.width) * end - 960),
        });
      }}
    >
      <canvas ref={canvas} style={{ width, height: HEIGHT }} className="block" />
      <div ref={playhead} className="absolute top-0 bottom-0 left-0 w-px bg-warm" />
    </div>
  );
}
