import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FILTER_KINDS, SOURCE, type Zone } from '../catalogue/index.ts';
import { FarloError } from '../errors/index.ts';
import { foundInSfz, readSfz, writeSfz, type SampleFacts } from '../formats/index.ts';
import { plainZone } from '../testing/fixtures.ts';
import { assemble, guessMeanings } from './index.ts';

const FACTS: SampleFacts = { frames: 1000, rate: 48_000, loops: [] };

function found(text: string, facts = FACTS) {
  const file = readSfz('a.sfz', (path) => (path === 'a.sfz' ? text : undefined));
  const samples = new Map(file.regions.map((r) => [r.opcodes.get('sample')?.value ?? '', facts]));
  return foundInSfz(file, samples, 'Test');
}

/** The instrument an SFZ text gives when every guess is kept. */
function map(text: string, facts = FACTS) {
  const { found: zones, unsupported, rests } = found(text, facts);
  return { ...assemble(zones, guessMeanings(zones))[0], unsupported, rests };
}

const zoneOf = (opcodes: string, facts = FACTS): Zone =>
  map(`<region>sample=a.wav ${opcodes}`, facts).articulations[0].zones[0];

function survives(read: () => unknown): void {
  try {
    read();
  } catch (error) {
    expect(error).toBeInstanceOf(FarloError);
  }
}

describe('SFZ as an instrument', () => {
  it('maps keyswitches to articulations, labels to positions, sequences to takes', () => {
    const made = map(
      '<master>master_label=Close\n<group>sw_last=24 sw_label=Spicc short\n<region>key=60 seq_length=2 seq_position=1 sample=c1.wav\n<region>key=60 seq_length=2 seq_position=2 sample=c2.wav\n<master>master_label=far mics\n<group>sw_last=24 sw_label=x\n<region>key=60 seq_length=2 seq_position=2 sample=f2.wav\n<region>key=60 seq_length=2 seq_position=1 sample=f1.wav',
    );
    expect(made.positions.map((p) => p.id)).toEqual(['close', 'far']);
    expect(made.articulations).toHaveLength(1);
    expect(made.articulations[0]).toMatchObject({ id: 'staccato', suggestedKey: 24 });
    expect(
      made.articulations[0].zones.map((z) => [z.take, z.samples.close.sample, z.samples.far.sample]),
    ).toEqual([
      [0, 'c1.wav', 'f1.wav'],
      [1, 'c2.wav', 'f2.wav'],
    ]);
  });
  it('maps crossfades, loops, envelopes, filters, modulation and random takes', () => {
    const [zone] = map(
      '<region>key=a4 sample=a.wav xfin_locc1=10 xfin_hicc1=90 loop_mode=loop_continuous loop_start=5 loop_end=899 ampeg_release=0.4 cutoff=900 resonance=3 gain_cc1=12 volume=-6 tune=-15 amp_veltrack=50 transpose=12',
    ).articulations[0].zones;
    expect(zone).toMatchObject({
      keyLow: 69,
      keyHigh: 69,
      rootKey: 57,
      gainDb: -6,
      tuneCents: -15,
      velocityTrack: 0.5,
      loop: { start: 5, end: 900 },
      cutoffHz: 900,
      resonanceDb: 3,
    });
    expect(zone.fades).toEqual([{ controller: 1, inLow: 10, inHigh: 90, outLow: 127, outHigh: 127 }]);
    expect(zone.modulations).toEqual([{ controller: 1, target: 'gainDb', depth: 12 }]);
    const takes = map('<region>sample=a.wav lorand=0 hirand=0.5 <region>sample=b.wav lorand=0.5 hirand=1')
      .articulations[0].zones;
    expect(takes.map((z) => [z.take, z.takes])).toEqual([
      [0, 2],
      [1, 2],
    ]);
  });
  it('joins transitions written key by key', () => {
    const zones = map(
      '<region>trigger=legato key=60 sw_previous=57 pitch_keycenter=61 sample=t.wav\n<region>trigger=legato key=61 sw_previous=58 pitch_keycenter=61 sample=t.wav\n<region>trigger=legato key=61 sw_previous=60 pitch_keycenter=61 sample=u.wav',
    ).articulations[0].zones;
    expect(zones.map((z) => [z.role, z.keyLow, z.keyHigh, z.interval])).toEqual([
      ['transition', 60, 61, 3],
      ['transition', 61, 61, 1],
    ]);
  });
  it('tells everything that changes nothing', () => {
    const { unsupported: unsupportedIn } = map(
      '<region>sample=a.wav eq1_gain=3 width=50\n<region>sample=b.wav eq1_gain=4 trigger=on_release\n<region>sample=c.wav cutoff=900 fil_type=comb',
    );
    expect(unsupportedIn.map((u) => [u.opcode, u.count])).toEqual([
      ['eq1_gain', 2],
      ['width', 1],
      ['trigger', 1],
      ['fil_type', 1],
    ]);
  });
  it('refuses nonsense values and instruments without a sound', () => {
    expect(() => map('<region>sample=a.wav volume=loud')).toThrow(/no number/);
    expect(() => map('<region>sample=a.wav key=H9')).toThrow(/no key/);
    expect(() => map('<region>key=60')).toThrow(/can be played/);
  });
  it('survives random edits of a text', () => {
    const text =
      '<control>default_path=x/\n#define $A 3\n<group>lovel=1 hivel=64\n<region>sample=a b.wav key=$A lokey=1 // end\n<region>sample=c.wav loop_start=1\n';
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(text.length - 1), fc.constantFrom(...'<>=/*$#" \nA1.')), {
          minLength: 1,
          maxLength: 5,
        }),
        (changes) => {
          const letters = [...text];
          for (const [at, letter] of changes) letters[at] = letter;
          survives(() => map(letters.join('')));
        },
      ),
      { numRuns: 2000 },
    );
  });
});

describe('every group of opcodes', () => {
  it('keys, offsets of keys, pitch tracking and transposition', () => {
    expect(zoneOf('lokey=c4 hikey=e4 pitch_keycenter=d4 pitch_keytrack=0')).toMatchObject({
      keyLow: 60,
      keyHigh: 64,
      rootKey: 62,
      keyTrack: 0,
    });
    const moved = map('<control>note_offset=-1 octave_offset=1\n<region>key=60 sample=a.wav')
      .articulations[0];
    expect(moved.zones[0]).toMatchObject({ keyLow: 71, keyHigh: 71, rootKey: 71 });
    expect(() => map('<control>note_offset=x\n<region>key=60 sample=a.wav')).toThrow(/no whole number/);
    expect(zoneOf('pitch_keycenter=sample', { ...FACTS, rootKey: 55 }).rootKey).toBe(55);
  });
  it('crossfades over velocity and keys, as sources of their own', () => {
    expect(zoneOf('xfin_lovel=20 xfin_hivel=60 xfout_lokey=c5 xfout_hikey=c6').fades).toEqual([
      { controller: SOURCE.velocity, inLow: 20, inHigh: 60, outLow: 127, outHigh: 127 },
      { controller: SOURCE.key, inLow: 0, inHigh: 0, outLow: 72, outHigh: 84 },
    ]);
  });
  it('controller ranges as gates', () => {
    expect(zoneOf('locc64=64 hicc64=127 hicc1=20').gates).toEqual([
      { controller: 1, low: 0, high: 20 },
      { controller: 64, low: 64, high: 127 },
    ]);
  });
  it('modulation of volume, amplitude, pan, filter and pitch, with curves', () => {
    const { modulations } = zoneOf(
      'gain_cc1=12 amplitude_oncc2=100 pan_oncc10=100 pan_curvecc10=1 cutoff=500 cutoff_oncc74=2400 resonance_cc71=6 tune_oncc128=30 tune_curvecc128=1 fil_veltrack=1200 pitch_veltrack=-50',
    );
    expect(modulations).toEqual([
      { controller: 1, target: 'gainDb', depth: 12 },
      { controller: 2, target: 'amplitude', depth: 1 },
      { controller: 10, target: 'pan', depth: 1, curve: 'bipolar' },
      { controller: 74, target: 'cutoffCents', depth: 2400 },
      { controller: 71, target: 'resonanceDb', depth: 6 },
      { controller: SOURCE.bend, target: 'tuneCents', depth: 30, curve: 'bipolar' },
      { controller: SOURCE.velocity, target: 'cutoffCents', depth: 1200 },
      { controller: SOURCE.velocity, target: 'tuneCents', depth: -50 },
    ]);
  });
  it('triggers: first, joined, release with its decay', () => {
    const zones = map(
      '<region>sample=a.wav trigger=first\n<region>sample=b.wav trigger=legato\n<region>sample=c.wav trigger=release rt_decay=6',
    ).articulations.flatMap((articulation) => articulation.zones);
    expect(zones.map((z) => [z.role, z.when, z.decayDbPerSecond])).toEqual([
      ['attack', 'first', undefined],
      ['attack', 'joined', undefined],
      ['release', undefined, 6],
    ]);
  });
  it('lets the planner choose between beginning and move where moves were recorded', () => {
    const { zones } = map(
      '<region>sample=a.wav trigger=first\n<region>sample=t.wav trigger=legato key=62 sw_previous=60',
    ).articulations[0];
    expect(zones.map((z) => [z.role, z.when])).toEqual([
      ['attack', undefined],
      ['transition', undefined],
    ]);
  });
  it('loops from the file or the text, until release, and ends', () => {
    const looped = { ...FACTS, loops: [{ start: 100, end: 900 }] };
    expect(zoneOf('', looped).loop).toEqual({ start: 100, end: 900 });
    expect(zoneOf('loop_mode=no_loop', looped).loop).toBeUndefined();
    expect(zoneOf('loop_mode=loop_sustain loopstart=10 loopend=19').loop).toEqual({
      start: 10,
      end: 20,
      untilRelease: true,
    });
    expect(zoneOf('offset=5 end=499 loop_mode=one_shot')).toMatchObject({
      startFrame: 5,
      endFrame: 500,
      oneShot: true,
    });
  });
  it('regions that are off, turned round, or loop backwards: left out, and told with their line', () => {
    const { found: zones, unsupported } = found(
      [
        '<region> sample=a.wav end=-1',
        '<region> sample=b.wav lovel=100 hivel=20',
        '<region> sample=c.wav loop_mode=loop_continuous loop_start=600 loop_end=200',
        '<region> sample=d.wav lokey=70 hikey=60',
      ].join('\n'),
    );
    expect(zones.map(({ sample, zone }) => [sample, zone.loop])).toEqual([['c.wav', undefined]]);
    expect(unsupported.map(({ opcode, place: { line } }) => [opcode, line])).toEqual([
      ['end', 1],
      ['hivel', 2],
      ['loop_end', 3],
      ['hikey', 4],
    ]);
    expect(unsupported[2].reason).toContain('ends before it begins');
  });
  it('velocity that makes softer', () => {
    const track = (written: string) => found(`<region> sample=a.wav ${written}`).found[0].zone.velocityTrack;
    expect(['amp_veltrack=-100', 'amp_veltrack=-30', 'amp_veltrack=-500', ''].map(track)).toEqual([
      -1, -0.3, -1, 1,
    ]);
  });
  it.each([
    [[0, 0.5], 2, [1, 1]],
    [[0, 0.75], 4, [3, 1]],
    [[0, 0.7], 7, [5, 2]],
    [[0, 0.1, 0.2], 10, [1, 1, 8]],
    [[0, 0.001, 0.002], 20, [1, 1, 18]],
  ])('takes by chance from %j on: as many turns as give each its share', (starts, turns, times) => {
    const text = starts.map(
      (start, i) => `<region> sample=${i}.wav lorand=${start} hirand=${starts[i + 1] ?? 1}`,
    );
    const { zones } = map(text.join('\n')).articulations[0];
    expect(zones.every(({ takes }) => takes === turns)).toBe(true);
    expect([...zones].map(({ take }) => take).sort((a, b) => a - b)).toEqual(
      Array.from({ length: turns }, (_, i) => i),
    );
    const of = (i: number) => zones.filter(({ samples }) => samples.mix.sample === `${i}.wav`);
    expect(starts.map((_, i) => of(i).length)).toEqual(times);
    // The one that comes most often does not come in one block.
    if (times[0] === 3) expect(of(1)[0].take).toBeGreaterThan(0);
  });
  it('controllers that rest elsewhere for this instrument alone, and are written so again', () => {
    const { rests, articulations, positions, unsupported } = map(
      '<control> set_cc20=90 set_cc1=5 set_cc11=100\n<region> sample=a.wav volume_oncc20=-12',
    );
    // Dynamics and expression rest as they do everywhere in the house.
    expect(rests).toEqual({ 20: 90 });
    expect(unsupported.map(({ opcode, place: { line } }) => [opcode, line])).toEqual([
      ['set_cc1', 1],
      ['set_cc11', 1],
    ]);
    expect(map(writeSfz({ name: 'x', articulations, positions, rests }).text).rests).toEqual({ 20: 90 });
  });
  it('envelopes of volume, filter and pitch; LFOs of both versions', () => {
    const zone = zoneOf(
      'delay=0.1 ampeg_delay=0.2 ampeg_attack=0.3 ampeg_hold=0.4 ampeg_decay=0.5 ampeg_sustain=60 ampeg_release=0.7 cutoff=400 fileg_depth=1200 fileg_attack=0.1 fileg_sustain=50 pitcheg_depth=-100 pitcheg_decay=0.2 pitchlfo_freq=5 pitchlfo_depth=20 pitchlfo_depthcc77=40 lfo2_freq=3 lfo2_volume=2',
    );
    expect(zone.envelope).toEqual({
      delaySeconds: 0.30000000000000004,
      attackSeconds: 0.3,
      holdSeconds: 0.4,
      decaySeconds: 0.5,
      sustain: 0.6,
      releaseSeconds: 0.7,
    });
    expect(zone.moves?.map((m) => [m.target, m.depth, m.attackSeconds, m.decaySeconds, m.sustain])).toEqual([
      ['cutoffCents', 1200, 0.1, 0, 0.5],
      ['tuneCents', -100, 0, 0.2, 0],
    ]);
    expect(zone.lfos).toEqual([
      {
        target: 'tuneCents',
        depth: 20,
        hertz: 5,
        delaySeconds: 0,
        fadeSeconds: 0,
        controller: 77,
        controllerDepth: 40,
      },
      { target: 'gainDb', depth: 2, hertz: 3, delaySeconds: 0, fadeSeconds: 0 },
    ]);
  });
  it('filters of every kind, and what tracks keys', () => {
    for (const [written, kind] of [
      ['lpf_1p', 'lowpass1'],
      ['hpf_1p', 'highpass1'],
      ['hpf_2p', 'highpass2'],
      ['bpf_2p', 'bandpass'],
      ['brf_2p', 'notch'],
    ])
      expect(zoneOf(`cutoff=800 fil_type=${written}`).filter).toBe(kind);
    const tracked = zoneOf('cutoff=800 fil_keytrack=100 fil_keycenter=60');
    // On the centre key the cutoff is what was written.
    expect((tracked.cutoffHz ?? 0) * 2 ** ((100 * 60) / 1200)).toBeCloseTo(800, 6);
    expect(tracked.modulations[0]).toMatchObject({ controller: SOURCE.key, depth: 12_700 });
  });
  it('groups that cut each other, and polyphony', () => {
    expect(zoneOf('group=2 off_by=3 off_mode=time off_time=0.05 polyphony=4 note_polyphony=1')).toMatchObject(
      {
        group: 2,
        offBy: 3,
        offSeconds: 0.05,
        polyphony: 4,
        keyPolyphony: 1,
      },
    );
    expect(zoneOf('off_by=1 off_mode=normal ampeg_release=0.4').offSeconds).toBe(0.4);
    // A time counts only for what is choked, and where it is asked for.
    expect(zoneOf('off_by=1 off_time=0.2').offSeconds).toBeUndefined();
    expect(zoneOf('off_mode=time off_time=0.2').offSeconds).toBeUndefined();
    // What bends further than a whole tone gets the rest from the wheel.
    expect(zoneOf('bend_up=700').modulations).toEqual([
      { controller: SOURCE.bend, target: 'tuneCents', depth: 500, curve: 'bipolar' },
    ]);
    expect(zoneOf('bend_up=200').modulations).toEqual([]);
  });
});

describe('what was written reads back as the same instrument', () => {
  const share = fc.integer({ min: 0, max: 100 }).map((n) => n / 100);
  const seconds = fc.integer({ min: 0, max: 500 }).map((n) => n / 100);
  const controller = fc.constantFrom(1, 11, 74, SOURCE.velocity, SOURCE.key);
  const fade = fc.tuple(fc.integer({ min: 1, max: 60 }), fc.integer({ min: 61, max: 126 }));
  const zone = fc
    .record({
      role: fc.constantFrom('attack' as const, 'release' as const),
      keyLow: fc.integer({ min: 0, max: 60 }),
      span: fc.integer({ min: 0, max: 60 }),
      rootKey: fc.integer({ min: 0, max: 127 }),
      velocityLow: fc.integer({ min: 1, max: 60 }),
      fade: fc.option(fc.tuple(controller, fade)),
      gate: fc.option(fc.integer({ min: 0, max: 127 })),
      takes: fc.integer({ min: 1, max: 4 }),
      tuneCents: fc.integer({ min: -600, max: 600 }),
      gainDb: fc.integer({ min: -400, max: 60 }).map((n) => n / 10),
      pan: fc.integer({ min: 1, max: 100 }).map((n) => n / 100),
      velocityTrack: share,
      startFrame: fc.integer({ min: 0, max: 400 }),
      looped: fc.boolean(),
      attack: seconds,
      sustain: share,
      release: seconds.map((n) => Math.round((n + 0.01) * 100) / 100),
      filter: fc.option(fc.constantFrom(...FILTER_KINDS)),
      depth: fc.integer({ min: -1200, max: 1200 }).filter((n) => n !== 0),
      group: fc.option(fc.integer({ min: 1, max: 9 })),
    })
    .map((r): Zone => {
      const take = r.takes - 1;
      return {
        ...plainZone({ samples: {} }),
        role: r.role,
        keyLow: r.keyLow,
        keyHigh: r.keyLow + r.span,
        rootKey: r.rootKey,
        velocityLow: r.velocityLow,
        fades: r.fade
          ? [{ controller: r.fade[0], inLow: r.fade[1][0], inHigh: r.fade[1][1], outLow: 127, outHigh: 127 }]
          : [],
        ...(r.gate === null ? {} : { gates: [{ controller: 20, low: r.gate, high: 127 }] }),
        take,
        takes: r.takes,
        tuneCents: r.tuneCents,
        gainDb: r.gainDb,
        pan: r.pan,
        velocityTrack: r.velocityTrack,
        startFrame: r.startFrame,
        ...(r.looped ? { loop: { start: 410, end: 990 } } : {}),
        oneShot: r.role === 'release',
        envelope: {
          attackSeconds: r.attack,
          holdSeconds: 0,
          decaySeconds: 0,
          sustain: r.sustain,
          releaseSeconds: r.release,
        },
        modulations:
          r.filter === null
            ? [{ controller: 5, target: 'tuneCents', depth: r.depth }]
            : [{ controller: 74, target: 'cutoffCents', depth: r.depth, curve: 'fall' }],
        ...(r.filter === null ? {} : { cutoffHz: 900, resonanceDb: 3 }),
        ...(r.filter === null || r.filter === 'lowpass2' ? {} : { filter: r.filter }),
        ...(r.group === null ? {} : { group: r.group, offBy: r.group, offSeconds: 0.02 }),
        lfos: [
          {
            target: 'tuneCents',
            depth: r.depth,
            hertz: 5.5,
            delaySeconds: 0.2,
            fadeSeconds: 0.1,
            controller: 77,
            controllerDepth: 30,
          },
        ],
      };
    });
  const sampled = (zones: Zone[], name: string): Zone[] =>
    zones.map((one, i) => ({
      ...one,
      samples: { close: { sample: `${name} ${i} c` }, far: { sample: `${name} ${i} f` } },
    }));

  it('over generated instruments', () => {
    fc.assert(
      fc.property(
        fc.array(zone, { minLength: 1, maxLength: 5 }),
        fc.array(zone, { minLength: 1, maxLength: 5 }),
        (longs, shorts) => {
          const instrument = {
            name: 'Round trip',
            positions: [
              { id: 'close', name: 'Close' },
              { id: 'far', name: 'Far' },
            ],
            articulations: [
              { id: 'long', name: 'Bowed notes', suggestedKey: 3, zones: sampled(longs, 'l') },
              { id: 'staccato', name: 'Stops, short', suggestedKey: 4, zones: sampled(shorts, 's') },
            ],
          };
          const { text, files } = writeSfz(instrument);
          const made = map(text);
          // Samples come back by path; the writer's own list says which is which.
          const named = JSON.parse(
            JSON.stringify(made.articulations, (key, value: unknown) =>
              key === 'sample' ? files.get(String(value)) : value,
            ),
          ) as unknown;
          expect(made.unsupported).toEqual([]);
          expect(made.positions).toEqual(instrument.positions);
          expect(named).toEqual(instrument.articulations);
        },
      ),
      { numRuns: 300 },
    );
  });
  it('but for a release that falls straight, written as the fade that sounds as long', () => {
    const { envelope } = plainZone({ samples: {} });
    const of = (releaseDb?: number) =>
      writeSfz({
        name: 'x',
        positions: [{ id: 'mix', name: 'Mix' }],
        articulations: [
          {
            id: 'long',
            name: 'long',
            zones: [
              plainZone({
                samples: { mix: { sample: 'a' } },
                envelope: { ...envelope, releaseSeconds: 0.8, ...(releaseDb ? { releaseDb } : {}) },
              }),
            ],
          },
        ],
      }).text;
    // 80 dB in 0.8 s: after 0.4 s it is 40 dB down.
    expect(of(80)).toContain('ampeg_release=0.4');
    expect(of()).toContain('ampeg_release=0.8');
  });
  it('with moves, and without switches where two techniques are of one kind', () => {
    const move = plainZone({
      role: 'transition',
      interval: -3,
      keyLow: 60,
      keyHigh: 64,
      oneShot: true,
      samples: { mix: { sample: 'move' } },
    });
    const note = (sample: string) => plainZone({ samples: { mix: { sample } } });
    const instrument = {
      name: 'x',
      positions: [{ id: 'mix', name: 'Mix' }],
      articulations: [
        { id: 'connected', name: 'slurred', zones: [note('a'), move] },
        { id: 'long', name: 'long', zones: [note('b')] },
        { id: 'long 2', name: 'another long', zones: [note('c')] },
      ],
    };
    const { text, files } = writeSfz(instrument);
    const made = map(text);
    expect(made.articulations.map(({ id, name }) => [id, name])).toEqual([
      ['connected', 'slurred'],
      ['long', 'long'],
      ['long 2', 'another long'],
    ]);
    expect(made.articulations[0].zones[1]).toMatchObject({ interval: -3, keyLow: 60, keyHigh: 64 });
    expect([...files.values()].sort()).toEqual(['a', 'b', 'c', 'move']);
  });
});
