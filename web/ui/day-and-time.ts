const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long' });
const TIME = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' });

/** A moment as people say it: the day and the time, or the time alone when it is today. */
export function dayAndTime(iso: string): string {
  const at = new Date(iso);
  const time = TIME.format(at);
  return at.toDateString() === new Date().toDateString() ? time : `${DAY.format(at)}, ${time}`;
}
