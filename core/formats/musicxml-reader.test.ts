import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CORE_VOCABULARY } from '../catalogue/index.ts';
import { FarloError } from '../errors/index.ts';
import type { Mark, Note, Part } from '../music/index.ts';
import { partFromSong, readMusicXml, writeMusicXml, type Score, type Song } from './index.ts';

/** Scores as others write them, built here letter by letter, and what must sound of them. */

const Q = 960;
const BAR = 4 * Q;
const [STEP, ALTER, OCTAVE] = [/^[A-G]/, /[#b]+/, /\d$/];

/** A note “C#4 2”: pitch and length in halves of a quarter (the divisions of these files); “r 2” is a rest. */
function note(text: string, inside = '', attributes = ''): string {
  const [pitch, length] = text.split(' ');
  const alter = [...(ALTER.exec(pitch)?.[0] ?? '')].reduce((sum, sign) => sum + (sign === '#' ? 1 : -1), 0);
  const what =
    pitch === 'r'
      ? '<rest/>'
      : `<pitch><step>${STEP.exec(pitch)?.[0] ?? ''}</step>${alter ? `<alter>${alter}</alter>` : ''}<octave>${OCTAVE.exec(pitch)?.[0] ?? ''}</octave></pitch>`;
  const [chord, rest] = inside.startsWith('<chord/>') ? ['<chord/>', inside.slice(8)] : ['', inside];
  return `<note${attributes}>${chord}${what}<duration>${length}</duration><voice>1</voice>${rest}</note>`;
}
const notated = (inside: string) => `<notations>${inside}</notations>`;
const direction = (inside: string, more = '') =>
  `<direction><direction-type>${inside}</direction-type>${more}</direction>`;
const words = (text: string) => direction(`<words>${text}</words>`);
const dynamic = (name: string) => direction(`<dynamics><${name}/></dynamics>`);
const wedge = (type: string) => direction(`<wedge type="${type}"/>`);
const tempo = (bpm: number) =>
  direction(`<metronome><beat-unit>quarter</beat-unit><per-minute>${bpm}</per-minute></metronome>`);
const HEAD =
  '<attributes><divisions>2</divisions><key><fifths>0</fifths></key><time><beats>4</beats><beat-type>4</beat-type></time></attributes>';

/** Bars of one part after the other. */
function file(...parts: string[][]): string {
  const names = parts.map(
    (_, i) => `<score-part id="P${i}"><part-name>Tide ${i + 1}</part-name></score-part>`,
  );
  const bars = parts.map(
    (list, i) =>
      `<part id="P${i}">${list.map((bar, k) => `<measure number="${k + 1}">${k === 0 ? HEAD : ''}${bar}</measure>`).join('')}</part>`,
  );
  return `<?xml version="1.0"?><!DOCTYPE score-partwise PUBLIC "-//X//DTD" "x.dtd"><score-partwise version="4.0"><part-list>${names.join('')}</part-list>${bars.join('')}</score-partwise>`;
}
const read = (...parts: string[][]): Song => readMusicXml(file(...parts), 'tide.musicxml');
const heard = ({ tracks }: Song, track = 0) =>
  tracks[track].notes.map(({ startTick, endTick, key }) => [startTick / Q, endTick / Q, key]);
const marksOf = ({ tracks }: Song) =>
  (tracks[0].marks ?? []).map(({ startTick, endTick, articulation }) => [
    articulation,
    startTick / Q,
    endTick / Q,
  ]);
const curve = ({ tracks }: Song, controller = 1) =>
  (tracks[0].points ?? [])
    .filter((point) => point.controller === controller)
    .map(({ tick, value }) => [tick, value]);

describe('notes of a score', () => {
  it('are where they are written, chords and voices too, at the pitch that sounds', () => {
    const song = read([
      note('C#4 2') +
        note('E4 2', '<chord/>') +
        note('r 2') +
        note('Bb3 4') +
        '<backup><duration>8</duration></backup>' +
        note('C3 8'),
      note('Cb5 1') + note('B##2 1') + '<forward><duration>4</duration></forward>' + note('A4 2'),
    ]);
    expect(heard(song)).toEqual([
      [0, 4, 48],
      [0, 1, 61],
      [0, 1, 64],
      [2, 4, 58],
      [4, 4.5, 71],
      [4.5, 5, 49],
      [7, 8, 69],
    ]);
    expect(song.tracks[0].name).toBe('Tide 1');
  });
  it('of instruments that transpose sound lower or higher than written', () => {
    const shift =
      '<attributes><transpose><diatonic>-1</diatonic><chromatic>-2</chromatic></transpose></attributes>';
    const low =
      '<attributes><transpose><chromatic>0</chromatic><octave-change>-1</octave-change></transpose></attributes>';
    expect(heard(read([shift + note('C4 8'), low + note('C4 8')]))).toEqual([
      [0, 4, 58],
      [4, 8, 48],
    ]);
  });
  it('that are tied are one, across bars and from any divisions', () => {
    const song = read([
      note('r 6') + note('G4 2', '<tie type="start"/>'),
      '<attributes><divisions>6</divisions></attributes>' +
        note('G4 24', '<tie type="stop"/><tie type="start"/>'),
      note('G4 2', '<tie type="stop"/>') + note('G4 22'),
    ]);
    expect(heard(song)).toEqual([
      [3, 8 + 1 / 3, 67],
      [8 + 1 / 3, 12, 67],
    ]);
  });
  it('are counted in quarters where a file does not say in what, or says nonsense', () => {
    const bars = (head: string) =>
      readMusicXml(
        file([note('C4 1') + note('D4 3')]).replace('<divisions>2</divisions>', head),
        'tide.musicxml',
      );
    for (const head of ['', '<divisions>0</divisions>', '<divisions>-4</divisions>'])
      expect(heard(bars(head))).toEqual([
        [0, 1, 60],
        [1, 4, 62],
      ]);
  });
  it('that are grace notes come before the beat, and none is lost without a word', () => {
    const grace = (pitch: string, more = '') =>
      note(`${pitch} 0`, more).replace('<duration>0</duration>', '').replace('<note>', '<note><grace/>');
    const song = read([note('C4 4') + grace('D4') + grace('E4') + note('F4 4')]);
    expect(heard(song)).toEqual([
      [0, 2, 60],
      [1.75, 1.875, 62],
      [1.875, 2, 64],
      [2, 4, 65],
    ]);
    const early = read([grace('D4') + note('C4 8')]);
    expect(heard(early)).toEqual([[0, 4, 60]]);
    expect(early.told).toEqual(['Not taken: grace note before the beginning.']);
  });
  it('are played as hard as the file says, else as the dynamics do, and harder where they are accented', () => {
    const [track] = read([
      dynamic('p') +
        note('C4 2', '', ' dynamics="100"') +
        note('C4 2') +
        dynamic('f') +
        note('C4 2') +
        dynamic('sfz') +
        note('C4 2'),
    ]).tracks;
    const [own, soft, loud, struck] = track.notes.map(({ velocity }) => velocity);
    expect(own).toBe(90);
    expect(loud).toBeGreaterThan(soft + 20);
    expect(struck).toBeGreaterThan(loud + 10);
  });
  it('carry the first verse', () => {
    const lyric = (text: string, kind: string, verse = 1) =>
      `<lyric number="${verse}"><syllabic>${kind}</syllabic><text>${text}</text></lyric>`;
    const song = read([
      note('C4 2', lyric('lan', 'begin') + lyric('x', 'single', 2)) +
        note('C4 2', lyric('tern', 'end')) +
        note('C4 2', lyric('sea', 'single')) +
        note('C4 2'),
    ]);
    expect(song.tracks[0].notes.map(({ syllable }) => syllable)).toEqual(['lan-', '-tern', 'sea', undefined]);
    expect(song.told).toEqual(['Not taken: syllable of another verse.']);
  });
});

describe('the time of a score', () => {
  it('has its metres, keys and rehearsal marks; a written key of a transposing part is the sounding one', () => {
    const song = read([
      note('C4 8') + direction('<rehearsal>Lamp</rehearsal>'),
      '<attributes><key><fifths>-3</fifths></key><time><beats>3+2</beats><beat-type>8</beat-type></time></attributes>' +
        note('C4 5'),
    ]);
    expect(song.metres).toEqual([
      { tick: 0, numerator: 4, denominator: 4 },
      { tick: BAR, numerator: 5, denominator: 8 },
    ]);
    expect(song.keys).toEqual([{ tick: BAR, fifths: -3 }]);
    expect(song.texts).toEqual([{ tick: BAR, text: 'Lamp' }]);
    const horn =
      '<attributes><key><fifths>2</fifths></key><transpose><chromatic>-7</chromatic></transpose></attributes>';
    // Written in D a fifth above, sounding in G.
    expect(read([horn + note('D4 8')]).keys).toEqual([{ tick: 0, fifths: 1 }]);
  });
  it('puts an upbeat at the end of its bar, and gives other bars the length they have', () => {
    const song = read([note('G4 2'), note('C5 8'), note('C5 3'), note('D5 8')]);
    expect(heard(song)).toEqual([
      [3, 4, 67],
      [4, 8, 72],
      [8, 9.5, 72],
      [9.5, 13.5, 74],
    ]);
    expect(
      song.metres.map(({ tick, numerator, denominator }) => `${tick / Q} ${numerator}/${denominator}`),
    ).toEqual(['0 4/4', '8 3/8', '9.5 4/4']);
  });
  it('plays repeats, first and second endings and jumps', () => {
    const repeat = (at: string, way: string) =>
      `<barline location="${at}"><repeat direction="${way}"/></barline>`;
    const ending = (number: string, type: string, at: string, more = '') =>
      `<barline location="${at}"><ending number="${number}" type="${type}"/>${more}</barline>`;
    const song = read([
      note('C4 8'),
      repeat('left', 'forward') + note('D4 8'),
      ending('1', 'start', 'left') +
        note('E4 8') +
        ending('1', 'stop', 'right', '<repeat direction="backward"/>'),
      ending('2', 'start', 'left') + note('F4 8') + ending('2', 'stop', 'right'),
      note('G4 8'),
    ]);
    expect(heard(song).map(([, , key]) => key)).toEqual([60, 62, 64, 62, 65, 67]);
    expect(song.told?.[0]).toBe('Repeats are played out: 5 bars become 6.');
    const back = read([
      note('C4 8') + direction('<words>Fine</words>', '<sound fine="yes"/>'),
      note('D4 8') + direction('<words>D.C. al Fine</words>', '<sound dacapo="yes"/>'),
    ]);
    expect(heard(back).map(([, , key]) => key)).toEqual([60, 62, 60]);
  });
  it('has tempos by any beat, and those that move to the next', () => {
    const dotted = direction(
      '<metronome><beat-unit>half</beat-unit><beat-unit-dot/><per-minute>40</per-minute></metronome>',
    );
    const song = read([
      tempo(60) + note('C4 4') + words('accel.') + note('C4 4'),
      direction('<words>on the way</words>', '<sound tempo="77"/>') + note('C4 8'),
      dotted + note('C4 8'),
    ]);
    expect(song.tempos).toEqual([
      { tick: 0, bpm: 60 },
      { tick: 2 * Q, bpm: 60, ramp: true },
      { tick: 2 * BAR, bpm: 120 },
    ]);
    const back = read([
      tempo(60) + note('C4 4') + words('rit.') + tempo(40) + note('C4 4'),
      words('a tempo') + note('C4 8'),
    ]);
    expect(back.tempos.map(({ tick, bpm }) => [tick / Q, bpm])).toEqual(
      [
        [0, 60],
        [2, 40],
        [4, 40],
      ].slice(0, back.tempos.length),
    );
    const open = read([tempo(60) + note('C4 4') + words('rit.') + note('C4 4')]);
    expect(open.tempos).toEqual([{ tick: 0, bpm: 60 }]);
    expect(open.told?.[0]).toContain('“rit.” at quarter 3 does not say where it leads');
  });
});

describe('dynamics of a score', () => {
  it('step where they stand, and lead along hairpins to the dynamic at their end', () => {
    const song = read([
      dynamic('p') +
        note('C4 2') +
        wedge('crescendo') +
        note('C4 4') +
        wedge('stop') +
        dynamic('f') +
        note('C4 2'),
      dynamic('pp') + note('C4 8'),
    ]);
    // Each of six names has a sixth of 128: their middles are 11, 32, 53, 75, 96, 117.
    expect(curve(song)).toEqual([
      [0, 32],
      [Q, 32],
      [3 * Q, 96],
      [BAR - 1, 96],
      [BAR, 11],
    ]);
  });
  it('go one further where nothing says where they lead, and lead there in words too', () => {
    const open = read([dynamic('mf') + wedge('diminuendo') + note('C4 8'), wedge('stop') + note('C4 8')]);
    expect(curve(open)).toEqual([
      [0, 75],
      [BAR, 54],
    ]);
    const spoken = read([dynamic('p') + words('cresc.') + note('C4 8'), dynamic('ff') + note('C4 8')]);
    expect(curve(spoken)).toEqual([
      [0, 32],
      [BAR, 117],
    ]);
  });
  it('in words go on through an accent, up to the next dynamic that stays', () => {
    const song = read([
      dynamic('p') + words('cresc.') + note('C4 4') + dynamic('sf') + note('C4 4'),
      dynamic('f') + note('C4 8'),
    ]);
    expect(curve(song)).toEqual([
      [0, 32],
      [BAR, 96],
    ]);
  });
  it('have the pedal as a curve of its own', () => {
    const song = read([
      note('C4 2') +
        direction('<pedal type="start"/>') +
        note('C4 4') +
        direction('<pedal type="stop"/>') +
        note('C4 2'),
    ]);
    expect(curve(song, 64)).toEqual([
      [Q - 1, 0],
      [Q, 127],
      [3 * Q - 1, 127],
      [3 * Q, 0],
    ]);
  });
});

describe('marks of a score', () => {
  it('hold from a word to the next, until it is taken back', () => {
    const song = read([
      words('pizz.') + note('C4 4') + words('sul pont.') + note('C4 2') + words('ord.') + note('C4 2'),
      words('Con sord.') + note('C4 8'),
    ]);
    expect(marksOf(song)).toEqual([
      ['pizzicato', 0, 2],
      ['near bridge', 2, 3],
      ['muted', 4, 8],
    ]);
  });
  it('are signs over one note after the other, and slurs up to where the last note ends', () => {
    const dot = notated('<articulations><staccato/></articulations>');
    const song = read([
      note('C4 2', dot) +
        note('D4 2', dot) +
        note('E4 2') +
        note('F4 2', notated('<technical><snap-pizzicato/></technical>')),
      note('C4 2', notated('<slur type="start" number="1"/>')) +
        note('D4 2') +
        note('E4 4', notated('<slur type="stop" number="1"/>')),
      note('C4 4', notated('<ornaments><tremolo type="single">3</tremolo></ornaments>')) +
        note(
          'C4 4',
          notated('<ornaments><trill-mark/><accidental-mark>natural</accidental-mark></ornaments>'),
        ),
    ]);
    expect(marksOf(song).sort((a, b) => Number(a[1]) - Number(b[1]))).toEqual([
      ['staccato', 0, 2],
      ['snapped', 3, 4],
      ['connected', 4, 8],
      ['tremolo', 8, 10],
      ['trill whole', 10, 12],
    ]);
  });
  it('under a slur end where its last note does, or where the next one begins in another voice', () => {
    const start = notated('<slur type="start" number="1"/>');
    const stop = notated('<slur type="stop" number="1"/>');
    const alone = read([note('C4 2', start) + note('D4 2', stop) + note('r 4')]);
    expect(marksOf(alone)).toEqual([['connected', 0, 2]]);
    const under = read([
      note('C4 2', start) + note('D4 6', stop) + '<backup><duration>4</duration></backup>' + note('G3 4'),
    ]);
    expect(marksOf(under)).toEqual([['connected', 0, 2]]);
  });
  it('may be slides into the next note', () => {
    const song = read([note('C4 4', notated('<slide type="start" number="1"/>')) + note('D4 4')]);
    expect(marksOf(song)).toEqual([['slide', 0, 2]]);
  });
  it('of two words at one place is the second; what ends where it begins is none', () => {
    const song = read([words('pizz.') + words('col legno') + note('C4 8') + words('con sord.')]);
    expect(marksOf(song)).toEqual([['with the wood', 0, 4]]);
  });
  it('that nobody knows are told, counted', () => {
    const song = read([
      words('div. a 3') +
        note('C4 4', notated('<fermata/>')) +
        words('div. a 3') +
        note('C4 4', notated('<arpeggiate/>')),
    ]);
    expect(song.told).toEqual([
      'Not taken: “div. a 3” over the notes, 2 times.',
      'Not taken: fermata.',
      'Not taken: sign for a broken chord.',
    ]);
  });
});

describe('percussion', () => {
  it('is played by the keys its instruments name, else where it is written', () => {
    const drum = (instrument: string) =>
      `<note><unpitched><display-step>E</display-step><display-octave>4</display-octave></unpitched><duration>4</duration>${instrument}<voice>1</voice></note>`;
    const xml = file([drum('<instrument id="P0-I2"/>') + drum('<instrument id="none"/>')]).replace(
      '<part-name>Tide 1</part-name>',
      '<part-name>Tide 1</part-name><score-instrument id="P0-I1"><instrument-name>a</instrument-name></score-instrument><midi-instrument id="P0-I2"><midi-unpitched>39</midi-unpitched></midi-instrument>',
    );
    const song = readMusicXml(xml, 'drums.musicxml');
    expect(heard(song).map(([, , key]) => key)).toEqual([38, 64]);
    expect(song.told).toEqual(['Not taken: note without a pitch, read where it is written.']);
  });
  it('of a note that names no instrument is the first one', () => {
    const drum =
      '<note><unpitched><display-step>E</display-step><display-octave>4</display-octave></unpitched><duration>8</duration><voice>1</voice></note>';
    const instruments = [36, 50].map(
      (key, i) =>
        `<midi-instrument id="P0-I${i}"><midi-program>9</midi-program><midi-unpitched>${key}</midi-unpitched></midi-instrument>`,
    );
    const xml = file([drum + drum.replace('<voice>', '<instrument id="P0-I1"/><voice>')]).replace(
      '<part-name>Tide 1</part-name>',
      `<part-name>Tide 1</part-name>${instruments.join('')}`,
    );
    const song = readMusicXml(xml, 'drums.musicxml');
    expect(heard(song).map(([, , key]) => key)).toEqual([35, 49]);
    expect(song.tracks[0].programs).toEqual([{ tick: 0, program: 8 }]);
    expect(song.told).toBeUndefined();
  });
});

describe('a file that is none', () => {
  const failure = (text: string) => {
    try {
      readMusicXml(text, 'tide.musicxml');
    } catch (error) {
      if (error instanceof FarloError) return `${error.code} ${error.place?.line ?? ''} ${error.message}`;
      throw error;
    }
    return 'read';
  };
  const whole = file([note('C4 8')]);
  it('is refused with a sentence, and the line where it is damaged', () => {
    expect(failure('RIFF')).toContain('file.not-this-format');
    expect(failure(whole.slice(0, -60))).toContain('file.damaged 1');
    expect(failure(whole.replace('<score-partwise', '\n<score-partwise').replace('</voice>', ''))).toContain(
      'file.damaged 2',
    );
    expect(failure('<score-timewise></score-timewise>')).toContain('part by part');
    expect(failure('<score-partwise><part-list/></score-partwise>')).toContain('no bars');
    expect(failure(`<!DOCTYPE a [<!ENTITY b "bbbb">]>${whole}`)).toContain('file.unsupported');
  });
  it('damaged anywhere is read or refused, never anything else', () => {
    fc.assert(
      fc.property(fc.nat(whole.length - 1), fc.constantFrom('<', '>', '9', 'é', '&', ''), (at, sign) => {
        failure(whole.slice(0, at) + sign + whole.slice(at + 1));
      }),
      { numRuns: 300 },
    );
  });
  it('with repeats without end, huge numbers and notes out of all keys stays small, and says what it left', () => {
    const endless = read([
      '<barline location="left"><repeat direction="forward"/></barline>' +
        note('C4 8') +
        '<barline location="right"><repeat direction="backward" times="1000000"/></barline>',
    ]);
    expect(endless.tracks[0].notes.length).toBeLessThan(20_001);
    const high = read([
      note('C9 2') + note('C9 2', '<notations/>').replace('<octave>9', '<octave>99') + note('r 4'),
    ]);
    expect(heard(high)).toEqual([[0, 1, 120]]);
    expect(high.told).toEqual(['Not taken: note outside of all keys.']);
  });
});

interface Span {
  at: number;
  length: number;
}
const isCrossed = (a: Span, b: Span) =>
  a.at < b.at && b.at < a.at + a.length && a.at + a.length < b.at + b.length;

describe('MusicXML out, in and out again', () => {
  const score = (part: Part, more: Partial<Score> = {}): Score => ({
    title: '',
    tempos: [{ tick: 0, bpm: 84 }],
    metres: [{ tick: 0, numerator: 4, denominator: 4 }],
    keys: [],
    markers: [],
    endTick: 4 * BAR,
    parts: [{ name: 'Tide', part, articulation: 'long' }],
    ...more,
  });
  /** What was read, as a score to be written again. */
  function again(first: Score): Score {
    const song = readMusicXml(writeMusicXml(first), 'again.musicxml');
    const last = song.metres.length > 0 ? first.endTick : 0;
    return {
      ...first,
      tempos: song.tempos,
      metres: song.metres,
      keys: song.keys,
      markers: song.texts,
      parts: song.tracks.map((track, i) => {
        const { notes, marks, points } = partFromSong([track], undefined, 'long', last);
        const named = <T extends object>(list: T[]) => list.map((one, k) => ({ ...one, id: `r${k}` }));
        return {
          ...first.parts[i],
          part: { notes: named(notes), marks: named(marks), points: named(points) },
        };
      }),
    };
  }
  it('says the same for a cue with everything in it', () => {
    const notes = Array.from({ length: 16 }, (_, i): Note => ({
      id: `n${i}`,
      startTick: i * Q,
      endTick: (i + 1) * Q - (i === 5 ? 480 : 0),
      key: 60 + ((i * 5) % 14),
      velocity: 40 + 5 * i,
      syllable: i === 2 ? 'lan-' : i === 3 ? '-tern' : '',
    }));
    const mark = (articulation: string, from: number, to: number): Mark => ({
      id: articulation,
      articulation,
      startTick: from * Q,
      endTick: to * Q,
    });
    const first = score(
      {
        notes,
        marks: [
          mark('pizzicato', 0, 2),
          mark('connected', 3, 7),
          mark('staccato', 8, 10),
          mark('muted', 7, 13),
          mark('tremolo', 13, 14),
          mark('slide', 14, 16),
        ],
        points: [
          { id: 'a', controller: 1, tick: 0, value: 32 },
          { id: 'b', controller: 1, tick: BAR, value: 96 },
          { id: 'c', controller: 1, tick: 2 * BAR - 1, value: 96 },
          { id: 'd', controller: 1, tick: 2 * BAR, value: 20 },
        ],
      },
      {
        tempos: [
          { tick: 0, bpm: 60, ramp: true },
          { tick: BAR, bpm: 90.5 },
        ],
        metres: [
          { tick: 0, numerator: 4, denominator: 4 },
          { tick: 2 * BAR, numerator: 3, denominator: 4 },
        ],
        keys: [{ tick: BAR, fifths: -4 }],
        markers: [{ tick: BAR, text: 'Lamp & Sea' }],
      },
    );
    const transposed = { ...first, parts: [{ ...first.parts[0], transposition: -7 }] };
    for (const one of [first, transposed]) expect(writeMusicXml(again(one))).toBe(writeMusicXml(one));
    const back = again(first).parts[0].part;
    expect(
      back.notes.map(({ startTick, endTick, key, velocity, syllable }) => [
        startTick,
        endTick,
        key,
        velocity,
        syllable ?? '',
      ]),
    ).toEqual(
      notes.map(({ startTick, endTick, key, velocity, syllable }) => [
        startTick,
        endTick,
        key,
        velocity,
        syllable,
      ]),
    );
  });
  it('says the same for parts made by chance', () => {
    const ids = CORE_VOCABULARY.terms.map(({ id }) => id);
    const part = fc.record({
      notes: fc.array(
        fc.record({
          at: fc.nat(31),
          length: fc.integer({ min: 1, max: 8 }),
          key: fc.integer({ min: 40, max: 80 }),
        }),
        {
          minLength: 1,
          maxLength: 16,
        },
      ),
      marks: fc.array(
        fc.record({ at: fc.nat(15), length: fc.integer({ min: 1, max: 6 }), id: fc.constantFrom(...ids) }),
        { maxLength: 4 },
      ),
      values: fc.uniqueArray(fc.record({ at: fc.nat(31), value: fc.nat(127) }), {
        maxLength: 6,
        selector: ({ at }) => at,
      }),
      // Beyond, a part that is transposed may be written with flats for sharps.
      fifths: fc.integer({ min: -5, max: 4 }),
      transposition: fc.constantFrom(0, -2, -7, -14, 12),
    });
    fc.assert(
      fc.property(part, ({ notes, marks, values, fifths, transposition }) => {
        // Of one key one note after the other.
        const free = notes.filter(
          (one, i) =>
            !notes
              .slice(0, i)
              .some(
                (other) =>
                  other.key === one.key && one.at < other.at + other.length && other.at < one.at + one.length,
              ),
        );
        // Of five voices at once one is cut.
        const atOnce = (at: number) => free.filter((one) => one.at <= at && at < one.at + one.length).length;
        fc.pre(free.every(({ at }) => atOnce(at) <= 4));
        const first = score(
          {
            notes: free.map(({ at, length, key }, i) => ({
              id: `n${i}`,
              startTick: (at * Q) / 2,
              endTick: ((at + length) * Q) / 2,
              key,
              velocity: 80,
            })),
            // Marks lie within each other or beside each other.
            marks: marks
              .filter(
                (one, i) =>
                  !marks
                    .slice(0, i)
                    .some((other) => isCrossed(one, other) || isCrossed(other, one) || one.at === other.at),
              )
              .map(({ at, length, id }, i) => ({
                id: `m${i}`,
                articulation: id,
                startTick: at * Q,
                endTick: (at + length) * Q,
              })),
            points: values.map(({ at, value }, i) => ({
              id: `p${i}`,
              controller: 1,
              tick: (at * Q) / 2,
              value,
            })),
          },
          { keys: fifths === 0 ? [] : [{ tick: 0, fifths }] },
        );
        const moved = { ...first, parts: [{ ...first.parts[0], transposition }] };
        const second = again(moved);
        const third = again(second);
        expect(writeMusicXml(second)).toBe(writeMusicXml(moved));
        expect(writeMusicXml(third)).toBe(writeMusicXml(second));
        const heardOf = ({ parts }: Score) =>
          parts[0].part.notes.map(({ startTick, endTick, key }) => `${startTick} ${endTick} ${key}`).sort();
        expect(heardOf(third)).toEqual(heardOf(second));
        expect(second.keys).toEqual(moved.keys);
      }),
      { numRuns: 100 },
    );
  });
});
