import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { writeWav } from '#core/formats/index.ts';
import { midiToHertz } from '#core/units/index.ts';

/** Writes an instrument of about 200 MB as SFZ with WAV files into the folder given on the command line (P6). */

const POSITIONS = ['close', 'mid', 'tree', 'outriggers', 'far'];
const TECHNIQUES = ['long', 'tremolo', 'muted', 'staccato', 'pizzicato'];
const ROOTS = Array.from({ length: 16 }, (_, i) => 36 + 3 * i);
const SECONDS = 2.6;

const [, , folder] = process.argv;
const lines: string[] = [];
for (const position of POSITIONS) {
  lines.push(`<master> master_label=${position}`);
  TECHNIQUES.forEach((technique, t) => {
    lines.push(`<group> sw_last=${t} sw_label=${technique} amp_veltrack=20`);
    for (const root of ROOTS) {
      const name = `${technique}-${root}-${position}.wav`;
      lines.push(`<region> lokey=${root - 1} hikey=${root + 1} pitch_keycenter=${root} sample=${name}`);
      writeFileSync(
        join(folder, name),
        writeWav({ rate: 48_000, format: 'i16', channels: tone(root, t, position) }),
      );
    }
  });
}
writeFileSync(join(folder, 'Large section.sfz'), lines.join('\n'));

/** Every recording is another, so that none is stored once for two. */
function tone(root: number, technique: number, position: string): Float32Array[] {
  const hertz = midiToHertz(root) * (1 + technique * 1e-4 + POSITIONS.indexOf(position) * 1e-5);
  return [0, 1].map((channel) =>
    Float32Array.from({ length: SECONDS * 48_000 }, (_, i) => {
      const t = i / 48_000;
      return (
        0.2 * Math.min(1, t / 0.01) * Math.sin(2 * Math.PI * hertz * t + channel * 0.3 * (technique + 1))
      );
    }),
  );
}
