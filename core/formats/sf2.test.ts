import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { SOURCE } from '../catalogue/index.ts';
import { FarloError } from '../errors/index.ts';
import { buildFont, type BuiltZone, type Gen } from '../testing/built-font.ts';
import { foundInSoundFont, readSoundFont } from './index.ts';

const range = (low: number, high: number) => low | (high << 8);
/** A font of one preset over one instrument zone. */
const simple = (generators: Gen[], preset: Gen[] = [], more: Partial<BuiltZone> = {}): Uint8Array =>
  buildFont({
    presets: [{ name: 'Lamp organ', zones: [{ generators: [...preset, [41, 0]] }] }],
    instruments: [{ name: 'lamp', zones: [{ generators: [...generators, [53, 0]], ...more }] }],
    samples: [{ name: 'a', frames: 400, loop: [100, 300], root: 62, cents: -7 }],
  });
const zoneIn = (bytes: Uint8Array) => foundInSoundFont(readSoundFont(bytes, 'a.sf2')).found[0].zone;

describe('SoundFont 2', () => {
  it('reads presets in order of bank and program, with names as words', () => {
    const font = readSoundFont(
      buildFont({
        presets: [
          { name: 'Drums', bank: 128, zones: [{ generators: [[41, 0]] }] },
          { name: 'Violin Pizz', program: 45, zones: [{ generators: [[41, 0]] }] },
          { name: 'Violin', program: 40, zones: [{ generators: [[41, 0]] }] },
          { name: 'Violin', program: 41, zones: [{ generators: [[41, 0]] }] },
        ],
        instruments: [{ name: 'i', zones: [{ generators: [[53, 0]] }] }],
        samples: [{ name: 's', frames: 100 }],
      }),
      'a.sf2',
    );
    expect(font.name).toBe('Built font');
    const { found } = foundInSoundFont(font);
    // Presets of one name are told apart.
    expect(found.map((zone) => zone.instrument)).toEqual(['Violin', 'Violin 2', 'Violin Pizz', 'Drums']);
    expect(found[2].words).toEqual([{ kind: 'preset', text: 'Violin Pizz' }]);
  });
  it('takes keys, velocities, roots, tuning, pan and loops from generators', () => {
    expect(
      zoneIn(
        simple([
          [43, range(40, 80)],
          [44, range(10, 90)],
          [51, 2],
          [52, 30],
          [17, -250],
          [54, 3],
          [56, 50],
        ]),
      ),
    ).toMatchObject({
      keyLow: 40,
      keyHigh: 80,
      velocityLow: 10,
      velocityHigh: 90,
      rootKey: 62,
      tuneCents: 223,
      pan: -0.5,
      keyTrack: 50,
      loop: { start: 100, end: 300, untilRelease: true },
      velocityTrack: 1,
    });
    expect(zoneIn(simple([[58, 70]])).rootKey).toBe(70);
    expect(zoneIn(simple([])).loop).toBeUndefined();
    expect(
      zoneIn(
        simple([
          [0, 10],
          [1, -20],
          [54, 1],
          [2, 5],
          [3, -5],
        ]),
      ),
    ).toMatchObject({
      startFrame: 10,
      endFrame: 380,
      loop: { start: 105, end: 295 },
    });
  });
  it('adds what the preset says, and meets its ranges', () => {
    const zone = zoneIn(
      simple(
        [
          [43, range(40, 80)],
          [52, 10],
          [48, 100],
        ],
        [
          [43, range(60, 100)],
          [52, 5],
          [48, 50],
        ],
      ),
    );
    expect(zone).toMatchObject({ keyLow: 60, keyHigh: 80, tuneCents: 8, gainDb: -6 });
    expect(
      foundInSoundFont(readSoundFont(simple([[43, range(0, 20)]], [[43, range(60, 100)]]), 'a')).found,
    ).toEqual([]);
  });
  it('puts global zones beneath local ones', () => {
    const bytes = buildFont({
      presets: [{ name: 'p', zones: [{ generators: [[52, 3]] }, { generators: [[41, 0]] }] }],
      instruments: [
        {
          name: 'i',
          zones: [
            {
              generators: [
                [52, 20],
                [17, 500],
              ],
            },
            {
              generators: [
                [17, -500],
                [53, 0],
              ],
            },
            { generators: [[53, 0]] },
          ],
        },
      ],
      samples: [{ name: 's', frames: 100 }],
    });
    const { found } = foundInSoundFont(readSoundFont(bytes, 'a'));
    expect(found.map(({ zone }) => [zone.pan, zone.tuneCents])).toEqual([
      [-1, 23],
      [1, 23],
    ]);
  });
  it('turns timecents, centibels and absolute cents into seconds, levels and hertz', () => {
    const zone = zoneIn(
      simple([
        [33, -1200],
        [34, 0],
        [35, -2400],
        [36, 1200],
        [37, 200],
        [38, 0],
        [8, 6900],
        [9, 60],
        [11, 1200],
        [28, 0],
        [29, 500],
      ]),
    );
    expect(zone.envelope).toMatchObject({
      delaySeconds: 0.5,
      attackSeconds: 1,
      holdSeconds: 0.25,
      // 2 s for 100 dB, of which 20 dB are fallen.
      decaySeconds: 0.4,
      sustain: 0.1,
      // A second for 100 dB, of which the first 80 are played.
      releaseSeconds: 0.8,
      releaseDb: 80,
    });
    expect(zone.cutoffHz).toBeCloseTo(440, 0);
    expect(zone.resonanceDb).toBe(6);
    expect(zone.moves).toEqual([
      expect.objectContaining({ target: 'cutoffCents', depth: 1200, decaySeconds: 0.5, sustain: 0.5 }),
    ]);
  });
  it('brings the default modulators: velocity to filter, and vibrato by its own controller', () => {
    const zone = zoneIn(
      simple([
        [8, 8000],
        [6, 10],
        [24, 0],
      ]),
    );
    expect(zone.modulations).toContainEqual({
      controller: SOURCE.velocity,
      target: 'cutoffCents',
      depth: -2400,
      curve: 'fall',
    });
    expect(zone.lfos).toContainEqual(
      expect.objectContaining({ target: 'tuneCents', depth: 10, controller: 77, controllerDepth: 50 }),
    );
    // Without a filter there is nothing for velocity to close.
    expect(zoneIn(simple([])).modulations).toEqual([]);
  });
  it('takes the file’s own modulators where it can, and tells the others', () => {
    const bytes = simple([[8, 8000]], [], {
      modulators: [
        [0x80 | 74, 8, 3000, 0],
        [0x80 | 10 | 0x200, 17, 500, 0],
        [13, 8, 100, 0],
      ],
    });
    const { found, unsupported } = foundInSoundFont(readSoundFont(bytes, 'a'));
    expect(found[0].zone.modulations.slice(1, 3)).toEqual([
      { controller: 10, target: 'pan', depth: 1, curve: 'bipolar' },
      { controller: 74, target: 'cutoffCents', depth: 3000 },
    ]);
    expect(unsupported.map((one) => one.opcode)).toEqual(['modulator 13 → 8']);
  });
  describe('whose modulators stand in the place of standard ones', () => {
    /** Velocity, falling: by a logarithm, and straight. */
    const [LEVEL, FALLING] = [0x502, 0x102];
    const modulated = (
      modulators: BuiltZone['modulators'],
      generators: Gen[] = [[8, 8000]],
      preset: BuiltZone['modulators'] = [],
    ) => {
      const bytes = buildFont({
        presets: [{ name: 'p', zones: [{ generators: [[41, 0]], modulators: preset }] }],
        instruments: [{ name: 'i', zones: [{ generators: [...generators, [53, 0]], modulators }] }],
        samples: [{ name: 's', frames: 100 }],
      });
      const { found, unsupported } = foundInSoundFont(readSoundFont(bytes, 'a'));
      return { zone: found[0].zone, told: unsupported.map(({ opcode }) => opcode) };
    };
    const filter = (depth: number) => ({
      controller: SOURCE.velocity,
      target: 'cutoffCents',
      depth,
      curve: 'fall',
    });
    it('velocity is heard as much as they say, or not at all', () => {
      expect(modulated([]).zone).toMatchObject({ velocityTrack: 1, modulations: [filter(-2400)] });
      expect(modulated([[LEVEL, 48, 0, 0]]).zone).toMatchObject({
        velocityTrack: 0,
        modulations: [filter(-2400)],
      });
      const half = modulated([[LEVEL, 48, 480, 0]]).zone;
      expect(half.velocityTrack).toBe(0);
      expect(half.modulations).toContainEqual({
        controller: SOURCE.velocity,
        target: 'gainDb',
        depth: -48,
        curve: 'concaveFall',
      });
      expect(modulated([[FALLING, 8, 0, 0]]).zone.modulations).toEqual([]);
      expect(modulated([[FALLING, 8, -600, 0]]).zone.modulations).toEqual([filter(-600)]);
    });
    it('a preset adds to what the instrument says', () => {
      expect(modulated([[FALLING, 8, -600, 0]], undefined, [[FALLING, 8, -300, 0]]).zone.modulations).toEqual(
        [filter(-900)],
      );
      expect(modulated([], undefined, [[LEVEL, 48, -960, 0]]).zone).toMatchObject({
        velocityTrack: 0,
        modulations: [filter(-2400)],
      });
    });
    it('the nearest zone counts', () => {
      const bytes = buildFont({
        presets: [{ name: 'p', zones: [{ generators: [[41, 0]] }] }],
        instruments: [
          {
            name: 'i',
            zones: [
              {
                generators: [[8, 8000]],
                modulators: [
                  [FALLING, 8, -600, 0],
                  [LEVEL, 48, 0, 0],
                ],
              },
              { generators: [[53, 0]], modulators: [[FALLING, 8, -100, 0]] },
            ],
          },
        ],
        samples: [{ name: 's', frames: 100 }],
      });
      expect(zoneIn(bytes)).toMatchObject({ velocityTrack: 0, modulations: [filter(-100)] });
    });
    it('vibrato rests as the file has it, and the wheel’s reach is that of its controller', () => {
      const lfo = (modulators: BuiltZone['modulators'], generators: Gen[] = []) =>
        modulated(modulators, generators).zone.lfos?.find(({ controller }) => controller === 77);
      expect(lfo([], [[6, 12]])).toMatchObject({ depth: 12, controllerDepth: 50, controllerFrom: 64 });
      expect(lfo([[0x81, 6, 0, 0]])).toMatchObject({ depth: 0, controllerDepth: 0 });
      expect(lfo([[0x81, 6, 90, 0]])?.controllerDepth).toBe(90);
    });
    it('bent ones are bent, and what belongs to the house is told where the file changes it', () => {
      const bent = (type: number, falls = false) =>
        modulated([[0x80 | 20 | (type << 10) | (falls ? 0x100 : 0), 48, 100, 0]]).zone.modulations.find(
          ({ controller }) => controller === 20,
        )?.curve;
      expect([bent(0), bent(1), bent(2), bent(3)]).toEqual([undefined, 'concave', 'convex', 'switch']);
      expect([bent(0, true), bent(1, true), bent(2, true), bent(3, true)]).toEqual([
        'fall',
        'concaveFall',
        'convexFall',
        'switchFall',
      ]);
      expect(modulated([[0x58b, 48, 0, 0]]).told).toEqual(['modulator 11 → 48']);
      expect(modulated([[0x58b, 48, 960, 0]]).told).toEqual([]);
      expect(modulated([[0x80 | 20 | 0x600, 48, 100, 0]]).told).toEqual(['modulator 20 → 48']);
    });
  });
  it('lets sounds of an exclusive class cut each other', () => {
    expect(zoneIn(simple([[57, 3]]))).toMatchObject({ group: 3, offBy: 3 });
  });
  it('says how much goes to a hall: tenths of a per cent, what the preset asks for added', () => {
    const sent = (generators: Gen[], preset: Gen[] = []) =>
      foundInSoundFont(readSoundFont(simple(generators, preset), 'a')).found[0].hallSend;
    expect(sent([[16, 100]])).toBeCloseTo(0.1, 9);
    expect(sent([[16, 300]], [[16, 200]])).toBeCloseTo(0.5, 9);
    expect(sent([[16, 1400]])).toBe(1);
    expect(sent([[16, -50]])).toBeUndefined();
    expect(sent([])).toBeUndefined();
  });
  it('tells where sounds of one preset go to a hall more than others', () => {
    const zones = (sends: readonly number[]) =>
      foundInSoundFont(
        readSoundFont(
          buildFont({
            presets: [{ name: 'Lamp organ', zones: [{ generators: [[41, 0]] }] }],
            instruments: [
              {
                name: 'lamp',
                zones: sends.map((send) => ({
                  generators: [
                    [16, send],
                    [53, 0],
                  ] as Gen[],
                })),
              },
            ],
            samples: [{ name: 'a', frames: 400 }],
          }),
          'a',
        ),
      );
    expect(zones([100, 130]).unsupported).toEqual([]);
    const uneven = zones([100, 400]);
    expect(uneven.unsupported.map(({ opcode, place }) => [opcode, place.file])).toEqual([
      ['reverb send', 'preset Lamp organ'],
    ]);
    expect(uneven.found.map(({ hallSend }) => hallSend)).toEqual([0.1, 0.4]);
  });
  it('tells of a chorus that it has none, once', () => {
    const told = (generators: Gen[]) =>
      foundInSoundFont(readSoundFont(simple(generators), 'a')).unsupported.map(({ reason }) => reason);
    expect(told([[15, 200]])).toEqual([expect.stringContaining('no chorus here')]);
    expect(told([[15, 0]])).toEqual([]);
    expect(told([[16, 200]])).toEqual([]);
  });
  it('leaves out samples in the memory of a device, and says so', () => {
    const bytes = buildFont({
      presets: [{ name: 'p', zones: [{ generators: [[41, 0]] }] }],
      instruments: [{ name: 'i', zones: [{ generators: [[53, 0]] }, { generators: [[53, 1]] }] }],
      samples: [
        { name: 's', frames: 100 },
        { name: 'r', frames: 100, type: 0x8001 },
      ],
    });
    const { found, unsupported } = foundInSoundFont(readSoundFont(bytes, 'a'));
    expect(found).toHaveLength(1);
    expect(unsupported[0].reason).toContain('memory of a device');
  });
  it('refuses compressed recordings, and says what to do', () => {
    const bytes = buildFont({
      presets: [{ name: 'p', zones: [{ generators: [[41, 0]] }] }],
      instruments: [{ name: 'i', zones: [{ generators: [[53, 0]] }] }],
      samples: [{ name: 's', frames: 100, type: 0x11 }],
    });
    expect(() => readSoundFont(bytes, 'a.sf3')).toThrow(/compressed.*Convert it to a plain \.sf2/);
  });
  it('names the place of what is damaged', () => {
    const bytes = simple([]);
    const fails = (change: (copy: Uint8Array) => void, sentence: RegExp) => {
      const copy = bytes.slice();
      change(copy);
      expect(() => foundInSoundFont(readSoundFont(copy, 'b.sf2'))).toThrow(sentence);
    };
    fails((copy) => (copy[0] = 65), /no SoundFont/);
    fails((copy) => (copy[8] = 65), /something other than a SoundFont/);
    const at = (tag: string) => {
      for (let i = 0; i < bytes.length - 4; i++)
        if (String.fromCharCode(...bytes.subarray(i, i + 4)) === tag) return i;
      return -1;
    };
    fails((copy) => (copy[at('shdr') + 8 + 24] = 255), /reaches to frame/);
    fails((copy) => (copy[at('phdr')] = 65), /“phdr” table is missing/);
    fails((copy) => (copy[at('pbag') + 8] = 200), /points to “pgen” 200/);
  });
  it('survives truncation at every byte and thousands of mutations', () => {
    const bytes = simple(
      [
        [43, range(40, 80)],
        [54, 1],
      ],
      [[52, 5]],
    );
    const tame = (copy: Uint8Array) => {
      try {
        for (const { zone } of foundInSoundFont(readSoundFont(copy, 'c.sf2')).found) {
          const numbers = JSON.stringify(zone);
          expect(numbers).not.toContain('null');
        }
      } catch (error) {
        expect(error).toBeInstanceOf(FarloError);
        expect((error as FarloError).place.file).toBe('c.sf2');
      }
    };
    for (let cut = 0; cut < bytes.length; cut++) tame(bytes.subarray(0, cut));
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(bytes.length - 1), fc.nat(255)), { minLength: 1, maxLength: 8 }),
        (changes) => {
          const copy = bytes.slice();
          for (const [at, value] of changes) copy[at] = value;
          tame(copy);
        },
      ),
      { numRuns: 4000 },
    );
  });
});
