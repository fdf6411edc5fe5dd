import { describeError, FarloError } from '#core/errors/index.ts';
import { readSmf, type SmfSong } from '#core/formats/index.ts';

export interface MidiRequest {
  bytes: ArrayBuffer;
  name: string;
}

export type MidiAnswer = { song: SmfSong } | { trouble: string };

self.onmessage = ({ data: { bytes, name } }: MessageEvent<MidiRequest>) => {
  try {
    self.postMessage({ song: readSmf(new Uint8Array(bytes), name) } satisfies MidiAnswer);
  } catch (error) {
    const trouble = error instanceof FarloError ? describeError(error) : String(error);
    self.postMessage({ trouble } satisfies MidiAnswer);
  }
};
