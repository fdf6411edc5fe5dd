/** A name for what was sent: its folder, its only file, or what all file names begin with. */
export function nameOf(paths: readonly string[]): string {
  const tops = [...new Set(paths.map((path) => path.split(/[\\/]/)[0]))];
  if (tops.length === 1) return tops[0].replace(/\.(zip|sfz|sf2|wave?|flac?)$/i, '');
  let start = tops[0];
  for (const top of tops) while (!top.startsWith(start)) start = start.slice(0, -1);
  return start.replace(/[ _.-]+\p{L}?$/u, '') || 'Recordings';
}
