/** SoundFonts built byte by byte, after the specification's tables. */

export type Gen = [operator: number, amount: number];
export interface BuiltZone {
  generators: Gen[];
  modulators?: [source: number, target: number, amount: number, amountSource: number][];
}
export interface Built {
  presets: { name: string; bank?: number; program?: number; zones: BuiltZone[] }[];
  instruments: { name: string; zones: BuiltZone[] }[];
  samples: {
    name: string;
    frames: number;
    loop?: [number, number];
    root?: number;
    cents?: number;
    rate?: number;
    type?: number;
  }[];
}

const text = (value: string, length: number) => {
  const bytes = new Uint8Array(length);
  for (let i = 0; i < Math.min(length - 1, value.length); i++) bytes[i] = value.charCodeAt(i);
  return [...bytes];
};
const u16 = (value: number) => [value & 255, (value >> 8) & 255];
const u32 = (value: number) => [...u16(value & 0xffff), ...u16((value >>> 16) & 0xffff)];
const chunk = (id: string, body: number[]) => [
  ...[...id].map((letter) => letter.charCodeAt(0)),
  ...u32(body.length),
  ...body,
  ...(body.length % 2 ? [0] : []),
];

export function buildFont({ presets, instruments, samples }: Built): Uint8Array {
  const bags = {
    pbag: [] as number[],
    pgen: [] as number[],
    pmod: [] as number[],
    ibag: [] as number[],
    igen: [] as number[],
    imod: [] as number[],
  };
  const zonesOf = (
    bag: 'pbag' | 'ibag',
    gen: 'pgen' | 'igen',
    mod: 'pmod' | 'imod',
    zones: readonly BuiltZone[],
  ) => {
    const first = bags[bag].length / 4;
    for (const zone of zones) {
      bags[bag].push(...u16(bags[gen].length / 4), ...u16(bags[mod].length / 10));
      for (const [operator, amount] of zone.generators) bags[gen].push(...u16(operator), ...u16(amount));
      for (const [source, target, amount, amountSource] of zone.modulators ?? [])
        bags[mod].push(...u16(source), ...u16(target), ...u16(amount), ...u16(amountSource), ...u16(0));
    }
    return first;
  };
  const phdr = presets.flatMap(({ name, bank = 0, program = 0, zones }) => [
    ...text(name, 20),
    ...u16(program),
    ...u16(bank),
    ...u16(zonesOf('pbag', 'pgen', 'pmod', zones)),
    ...u32(0),
    ...u32(0),
    ...u32(0),
  ]);
  phdr.push(
    ...text('EOP', 20),
    ...u16(0),
    ...u16(0),
    ...u16(bags.pbag.length / 4),
    ...u32(0),
    ...u32(0),
    ...u32(0),
  );
  const inst = instruments.flatMap(({ name, zones }) => [
    ...text(name, 20),
    ...u16(zonesOf('ibag', 'igen', 'imod', zones)),
  ]);
  inst.push(...text('EOI', 20), ...u16(bags.ibag.length / 4));
  bags.pbag.push(...u16(bags.pgen.length / 4), ...u16(bags.pmod.length / 10));
  bags.ibag.push(...u16(bags.igen.length / 4), ...u16(bags.imod.length / 10));
  for (const gen of ['pgen', 'igen'] as const) bags[gen].push(0, 0, 0, 0);
  for (const mod of ['pmod', 'imod'] as const) bags[mod].push(...new Array<number>(10).fill(0));
  const audio: number[] = [];
  const shdr = samples.flatMap(
    ({ name, frames, loop = [0, 0], root = 60, cents = 0, rate = 44_100, type = 1 }) => {
      const start = audio.length / 2;
      for (let i = 0; i < frames; i++) audio.push(...u16(Math.round(12_000 * Math.sin(i / 5))));
      for (let i = 0; i < 46; i++) audio.push(0, 0);
      return [
        ...text(name, 20),
        ...u32(start),
        ...u32(start + frames),
        ...u32(start + loop[0]),
        ...u32(start + loop[1]),
        ...u32(rate),
        root,
        cents & 255,
        ...u16(0),
        ...u16(type),
      ];
    },
  );
  shdr.push(...text('EOS', 20), ...new Array<number>(26).fill(0));
  const list = (id: string, body: number[]) =>
    chunk('LIST', [...[...id].map((l) => l.charCodeAt(0)), ...body]);
  const body = [
    ...[...'sfbk'].map((letter) => letter.charCodeAt(0)),
    ...list('INFO', [...chunk('ifil', [2, 0, 4, 0]), ...chunk('INAM', text('Built font', 12))]),
    ...list('sdta', chunk('smpl', audio)),
    ...list('pdta', [
      ...chunk('phdr', phdr),
      ...chunk('pbag', bags.pbag),
      ...chunk('pmod', bags.pmod),
      ...chunk('pgen', bags.pgen),
      ...chunk('inst', inst),
      ...chunk('ibag', bags.ibag),
      ...chunk('imod', bags.imod),
      ...chunk('igen', bags.igen),
      ...chunk('shdr', shdr),
    ]),
  ];
  return Uint8Array.from([
    ...[...'RIFF'].map((letter) => letter.charCodeAt(0)),
    ...u32(body.length),
    ...body,
  ]);
}
