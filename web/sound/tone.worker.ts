import { figuresOfPassage, type PassageFigures } from '#core/listen/index.ts';

/** Sound whose figures are wanted, in shared memory. */
export interface ToneRequest {
  id: number;
  left: Float32Array;
  right: Float32Array;
}

export interface ToneAnswer {
  id: number;
  figures?: PassageFigures;
  message?: string;
}

self.onmessage = ({ data: { id, left, right } }: MessageEvent<ToneRequest>) => {
  try {
    self.postMessage({ id, figures: figuresOfPassage(left, right) } satisfies ToneAnswer);
  } catch (error) {
    self.postMessage({ id, message: (error as Error).message } satisfies ToneAnswer);
  }
};
