/** Bar numbers need so many pixels each. */
const BAR_ROOM = 44;

/** Bars whose numbers are written: every one, or every second, fourth, eighth … of them, as room allows. */
export function barsAlong(
  metre: { barStart(bar: number): number; toBarBeat(tick: number): { bar: number } },
  end: number,
  width: number,
): { bar: number; tick: number }[] {
  const last = metre.toBarBeat(Math.max(0, end - 1)).bar;
  const most = Math.max(1, Math.floor(width / BAR_ROOM));
  let step = 1;
  while (last / step > most) step *= 2;
  return Array.from({ length: Math.ceil(last / step) }, (_, i) => {
    const bar = 1 + i * step;
    return { bar, tick: metre.barStart(bar) };
  });
}
