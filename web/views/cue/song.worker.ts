import { describeError, FarloError } from '#core/errors/index.ts';
import { readMusicXml, readSmf, type Song } from '#core/formats/index.ts';
import { Vocabulary, type HouseTerm } from '#core/catalogue/index.ts';
import { scoreText } from './score-text.ts';

export interface SongRequest {
  bytes: ArrayBuffer;
  name: string;
  /** Techniques of the house, which words over the notes may mean. */
  terms: readonly HouseTerm[];
}

export type SongAnswer = { song: Song } | { trouble: string };

self.onmessage = ({ data }: MessageEvent<SongRequest>) => {
  read(data).then(
    (song) => self.postMessage({ song } satisfies SongAnswer),
    (error: unknown) => {
      const trouble = error instanceof FarloError ? describeError(error) : String(error);
      self.postMessage({ trouble } satisfies SongAnswer);
    },
  );
};

/** A MIDI file by its first letters, else a score. @throws FarloError */
async function read({ bytes, name, terms }: SongRequest): Promise<Song> {
  const data = new Uint8Array(bytes);
  if (String.fromCharCode(...data.subarray(0, 4)) === 'MThd' || /\.(mid|midi|smf)$/i.test(name))
    return readSmf(data, name);
  return readMusicXml(await scoreText(data, name), name, new Vocabulary(terms));
}
