/** A piece of a file for a message: one line of it at most, and nothing that is no text. */
export function quoted(text: string, most = 60): string {
  const [line] = text.trim().split(/[\r\n]/, 1);
  // eslint-disable-next-line no-control-regex -- those are what is to be kept out
  const clean = line.replace(/[\u0000-\u001f\u007f-\u009f\ufffd]/g, '·');
  return clean.length > most ? `${clean.slice(0, most)}…` : clean;
}
