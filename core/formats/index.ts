/** Open formats: bytes to model and back, nothing else. */
export * from './byte-reader.ts';
export * from './paths.ts';
export * from './wav.ts';
export * from './found.ts';
export * from './sfz.ts';
export * from './sfz-opcodes.ts';
export * from './sfz-zone.ts';
export * from './sfz-found.ts';
export * from './sfz-writer.ts';
export * from './sf2.ts';
export * from './sf2-found.ts';
export * from './smf.ts';
export * from './smf-parts.ts';
export * from './keymap-csv.ts';
export * from './keymap-json.ts';
export * from './keymap-names.ts';
export * from './keymap-print.ts';
export type { FileRemark, ReadKeymap } from './keymap-file.ts';
