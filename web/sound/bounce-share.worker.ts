import { BounceShare, StretchCoder, Stretches, STRETCH_FRAMES } from '#core/deliver/index.ts';
import { SoundMemory } from '#core/engine/index.ts';
import { AHEAD, WORD, type BouncedFile, type ShareAnswer, type ShareRequest } from './bounce-protocol.ts';
import { FileWriter } from './file-writer.ts';

/** Renders some tracks of a bounce, stretch by stretch, no further ahead of the mix than there is room. */
self.onmessage = ({ data }: MessageEvent<ShareRequest>) => {
  const answer = (message: ShareAnswer) => self.postMessage(message);
  render(data).then(answer, (error: Error) => answer({ kind: 'failed', message: error.message }));
};

async function render(request: ShareRequest): Promise<ShareAnswer> {
  const { control, index, own, stems, format, folder, shared } = request;
  const sound = SoundMemory.within(shared.memory, shared.room);
  const places = new Stretches(request.address, request.tracks);
  const share = new BounceShare(request.order, own, places, sound);
  const coder = new StretchCoder(places, sound, format);
  const writers = new Map<number, FileWriter>();
  for (const track of own) if (stems.has(track)) writers.set(track, await FileWriter.open(format, folder));
  for (let stretch = 0; waitForRoom(control, stretch); stretch++) {
    share.render();
    for (const [track, writer] of writers) writer.add(coder.code(track, stretch), STRETCH_FRAMES);
    Atomics.store(control, WORD.rendered + index, stretch + 1);
    Atomics.notify(control, WORD.rendered + index);
  }
  const frames = Atomics.load(control, WORD.mixed) * STRETCH_FRAMES;
  const files: BouncedFile[] = [];
  for (const [track, writer] of writers)
    files.push({ name: stems.get(track) ?? '', file: await writer.finish(frames) });
  return { kind: 'done', files, stolen: share.stolen };
}

/** Waits until a stretch may be rendered. @returns false when the bounce is over */
function waitForRoom(control: Int32Array, stretch: number): boolean {
  for (;;) {
    const mixed = Atomics.load(control, WORD.mixed);
    if (Atomics.load(control, WORD.over) === 1) return false;
    if (stretch - mixed < AHEAD) return true;
    Atomics.wait(control, WORD.mixed, mixed);
  }
}
