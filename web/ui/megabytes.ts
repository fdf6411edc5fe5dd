/** Bytes as people read them: `48 kB`, `4.1 MB`, `486 MB`, `1.8 GB`. */
export function megabytes(bytes: number): string {
  if (bytes < 500) return '0 MB';
  if (bytes >= 1e9) return `${(bytes / 1e9).toFixed(1)} GB`;
  if (bytes < 1e5) return `${Math.round(bytes / 1e3)} kB`;
  return `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`;
}
