import { BounceShare, StretchCoder, Stretches, STRETCH_FRAMES } from '#core/deliver/index.ts';
import { SoundMemory } from '#core/engine/index.ts';
import { AHEAD, WORD, type ShareAnswer, type ShareRequest } from './bounce-protocol.ts';
import { FileWriter } from './file-writer.ts';

/** Renders some tracks of a bounce, stretch by stretch, no further ahead of the mix than there is room. */
self.onmessage = ({ data }: MessageEvent<ShareRequest>) => {
  const answer = (message: ShareAnswer) => self.postMessage(message);
  try {
    const { control, index, own, stems, format } = data;
    const sound = SoundMemory.within(data.shared.memory, data.shared.room);
    const places = new Stretches(data.address, data.tracks);
    const share = new BounceShare(data.order, own, places, sound);
    const writers = new Map(
      own.filter((track) => stems.has(track)).map((track) => [track, new FileWriter(format)]),
    );
    const coder = new StretchCoder(places, sound, format);
    for (let stretch = 0; waitForRoom(control, stretch); stretch++) {
      share.render();
      for (const [track, writer] of writers) writer.add(coder.code(track, stretch), STRETCH_FRAMES);
      Atomics.store(control, WORD.rendered + index, stretch + 1);
      Atomics.notify(control, WORD.rendered + index);
    }
    const frames = Atomics.load(control, WORD.mixed) * STRETCH_FRAMES;
    const files = [...writers].map(([track, writer]) => ({
      name: stems.get(track) ?? '',
      file: writer.finish(frames),
    }));
    answer({ kind: 'done', files, stolen: share.stolen });
  } catch (error) {
    answer({ kind: 'failed', message: (error as Error).message });
  }
};

/** Waits until a stretch may be rendered. @returns false when the bounce is over */
function waitForRoom(control: Int32Array, stretch: number): boolean {
  for (;;) {
    const mixed = Atomics.load(control, WORD.mixed);
    if (Atomics.load(control, WORD.over) === 1) return false;
    if (stretch - mixed < AHEAD) return true;
    Atomics.wait(control, WORD.mixed, mixed);
  }
}
