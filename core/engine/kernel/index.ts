/** The engine's arithmetic over blocks, compiled from `assembly`: see there for what each function does. */
import { KERNEL_CODE } from './code.ts';
import { webAssembly, type WebAssemblyMemory } from '../memory/web-assembly.ts';

type Address = number;

/** Reads, filters and adds two or four positions that keep pace. */
export type Sweep = (
  slots: Address,
  base: number,
  ratio: number,
  bend: number,
  count: number,
  table: Address,
  taps: number,
  weights: Address,
  gain: number,
  step: number,
  filters: number,
  a1: number,
  a2: number,
  a3: number,
  d1: number,
  d2: number,
  d3: number,
  powers: Address,
) => void;

/** What the compiled kernel offers. All audio is interleaved 32-bit floats; addresses are bytes. */
export interface Kernel {
  gather(
    out: Address,
    data: Address,
    format: number,
    first: number,
    count: number,
    frames: number,
    loopStart: number,
    loopEnd: number,
    inLoop: number,
    gainLeft: number,
    gainRight: number,
    stepLeft: number,
    stepRight: number,
    add: number,
  ): void;
  plan(
    base: number,
    ratio: number,
    bend: number,
    count: number,
    table: Address,
    places: Address,
    weights: Address,
  ): void;
  planRows(
    base: number,
    ratio: number,
    bend: number,
    count: number,
    table: Address,
    taps: number,
    places: Address,
    weights: Address,
  ): void;
  planWide(
    base: number,
    ratio: number,
    bend: number,
    count: number,
    scale: number,
    taps: number,
    curve: Address,
    places: Address,
    weights: Address,
  ): void;
  interpolate(
    from: Address,
    places: Address,
    weights: Address,
    out: Address,
    count: number,
    add: number,
  ): void;
  interpolateWide(
    from: Address,
    places: Address,
    weights: Address,
    taps: number,
    out: Address,
    count: number,
    add: number,
  ): void;
  sweepFour: Sweep;
  sweepFourWide: Sweep;
  sweepTwo: Sweep;
  sweepTwoWide: Sweep;
  lowPass(
    first: Address,
    second: Address,
    state: Address,
    count: number,
    a1: number,
    a2: number,
    a3: number,
    d1: number,
    d2: number,
    d3: number,
  ): void;
  lowPassFour(
    first: Address,
    second: Address,
    third: Address,
    fourth: Address,
    state: Address,
    count: number,
    a1: number,
    a2: number,
    a3: number,
    d1: number,
    d2: number,
    d3: number,
  ): void;
  stateVariable(
    first: Address,
    second: Address,
    state: Address,
    count: number,
    a1: number,
    a2: number,
    a3: number,
    d1: number,
    d2: number,
    d3: number,
    input: number,
    band: number,
    dBand: number,
    low: number,
  ): void;
  onePole(
    first: Address,
    second: Address,
    state: Address,
    count: number,
    share: number,
    dShare: number,
    high: number,
  ): void;
  addRamped(from: Address, to: Address, gain: number, step: number, count: number): number;
  mixPosition(
    from: Address,
    to: Address,
    count: number,
    ll: number,
    lr: number,
    rl: number,
    rr: number,
    dll: number,
    dlr: number,
    drl: number,
    drr: number,
  ): number;
  delay(
    sound: Address,
    line: Address,
    mask: number,
    write: number,
    before: number,
    beforeRow: Address,
    after: number,
    afterRow: Address,
    count: number,
  ): void;
  finishTrack(
    sound: Address,
    hall: Address,
    count: number,
    left: number,
    right: number,
    dLeft: number,
    dRight: number,
    send: number,
    dSend: number,
  ): number;
  add(from: Address, to: Address, count: number): void;
  exchange(from: Address, to: Address, count: number): void;
  copy(to: Address, from: Address, bytes: number): void;
  clear(at: Address, bytes: number): void;
  split(from: Address, left: Address, right: Address, count: number): void;
  join(left: Address, right: Address, to: Address, count: number): void;
  encode24(from: Address, to: Address, count: number): void;
  truePeak(
    from: Address,
    count: number,
    weights: Address,
    points: number,
    taps: number,
    highest: number,
    bound: number,
    near: number,
    rise: number,
  ): number;
  biquad(
    sound: Address,
    state: Address,
    count: number,
    b0: number,
    b1: number,
    b2: number,
    a1: number,
    a2: number,
  ): void;
  weigh(sound: Address, count: number, sections: Address, state: Address): number;
  transform(data: Address, other: Address, n: number, factors: Address): Address;
  separate(spectrum: Address, n: number, out: Address, stride: number): void;
  multiply(total: Address, x: Address, h: Address, gain: number, stride: number): void;
  unite(left: Address, right: Address, stride: number, n: number, out: Address): void;
}

let compiled: object | undefined;
const kernels = /* @__PURE__ */ new WeakMap<WebAssemblyMemory, Kernel>();

/** The kernel working in a memory, one for each thread. @throws where vectors or shared memory are missing */
export function kernelIn(memory: WebAssemblyMemory): Kernel {
  let kernel = kernels.get(memory);
  if (!kernel) {
    compiled ??= new webAssembly.Module(bytesOf(KERNEL_CODE));
    kernel = new webAssembly.Instance(compiled, { env: { memory } }).exports as Kernel;
    kernels.set(memory, kernel);
  }
  return kernel;
}

const DIGITS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

/** Base 64 read; an audio worklet has nothing that does it. */
function bytesOf(text: string): Uint8Array {
  const digits = text.replace(/=+$/, '');
  const bytes = new Uint8Array((digits.length * 3) >> 2);
  let bits = 0;
  for (let i = 0, at = 0; i < digits.length; i++) {
    bits = (bits << 6) | DIGITS.indexOf(digits[i]);
    if (i % 4 > 0) bytes[at++] = (bits >> (6 - 2 * (i % 4))) & 255;
  }
  return bytes;
}
