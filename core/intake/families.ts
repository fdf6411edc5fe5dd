import { wordsOf, type Family, type InstrumentKind } from '../catalogue/index.ts';

/** What a name tells of an instrument, and which word told it. */
export interface FamilyGuess {
  family: Family;
  kind: InstrumentKind;
  /** Whether something told it; what nothing tells has to be asked. */
  isTold: boolean;
  reason: string;
}

/** Words that belong together and mean something else than each by itself. */
const PHRASES: readonly [family: Family, phrases: string][] = [
  ['winds', 'english horn,cor anglais,basset horn,pan flute,pan pipes,mouth organ'],
  ['brass', 'french horn,wagner tuba'],
  [
    'percussion',
    'gran cassa,wood block,temple block,temple blocks,music box,sleigh bells,steel drum,steel drums',
  ],
  ['keys', 'church organ,pipe organ,reed organ'],
  ['other', 'bass guitar,electric bass,synth bass,synth strings,synth brass,synth voice,bass synth'],
  ['strings', 'double bass,string bass'],
];

/** What an instrument is, whatever stands before it. */
const NOUNS: readonly [family: Family, words: string][] = [
  [
    'strings',
    'strings,string,violin,violins,viola,violas,cello,cellos,celli,violoncello,fiddle,vln,vla,vlc,vc',
  ],
  [
    'winds',
    'wind,winds,woodwind,woodwinds,flute,flutes,oboe,oboes,clarinet,clarinets,bassoon,bassoons,contrabassoon,recorder,recorders,whistle,whistles,sax,saxes,saxophone,saxophones,ocarina,harmonica,bagpipe,bagpipes,duduk,shakuhachi',
  ],
  [
    'brass',
    'brass,horn,horns,trumpet,trumpets,trombone,trombones,tuba,tubas,cornet,cornets,euphonium,flugelhorn,flugelhorns,cimbasso',
  ],
  [
    'percussion',
    'percussion,drum,drums,drumkit,kit,kits,timpani,timpano,cymbal,cymbals,snare,snares,bell,bells,chimes,glockenspiel,crotales,xylophone,marimba,vibraphone,gong,gongs,tamtam,triangle,tambourine,toms,tom,taiko,castanets,shaker,claves,anvil',
  ],
  ['keys', 'piano,pianos,keys,celesta,harpsichord,organ,harp,harps,clavinet,clavichord,epiano,accordion'],
  ['choir', 'choir,choirs,voice,voices,vocal,vocals,women,men,boys,girls,chorus,aahs,oohs'],
  ['other', 'guitar,guitars,banjo,ukulele,sitar,koto,synth,pad,fx'],
];

/** Ranges: of an instrument where one is named, else of a voice, or an instrument that is called by its range. */
const RANGES: readonly [family: Family, words: string][] = [
  ['choir', 'soprano,sopranos,mezzo,alto,altos,tenor,tenors,baritone,baritones'],
  ['winds', 'piccolo,piccolos'],
  ['strings', 'bass,basses,contrabass,contrabasses,cb,db'],
];

/** Program of a preset that stands in the bank of drum kits. */
export const KIT_PROGRAM = 128;

/** General MIDI's groups of eight programs. */
const GM: readonly Family[] = [
  'keys',
  'percussion',
  'keys',
  'other',
  'strings',
  'strings',
  'strings',
  'brass',
  'winds',
  'winds',
  'other',
  'other',
  'other',
  'other',
  'percussion',
  'other',
];

/**
 * Family and kind of an instrument by the words in its name; what no word tells must be asked.
 * @param program General MIDI program, where one is known; `KIT_PROGRAM` for a drum kit
 */
export function guessFamily(name: string, program?: number): FamilyGuess {
  const words = wordsOf(name);
  const plural = words.some((word) => word.length > 3 && word.endsWith('s') && !word.endsWith('ss'));
  const kind: InstrumentKind =
    words.includes('ensemble') || words.includes('section') || plural ? 'section' : 'solo';
  const told = (family: Family, word: string): FamilyGuess => ({
    family,
    kind,
    isTold: true,
    reason: `“${word}” is in its name`,
  });
  for (const [family, list] of PHRASES)
    for (const phrase of list.split(',')) if (holds(words, phrase.split(' '))) return told(family, phrase);
  if (program === KIT_PROGRAM)
    return { family: 'percussion', kind, isTold: true, reason: 'it stands in the bank of drum kits' };
  const noun = lastOf(words, NOUNS);
  if (noun) return told(noun.family, noun.word);
  for (const list of RANGES) {
    const range = lastOf(words, [list]);
    if (range) return told(range.family, range.word);
  }
  if (program !== undefined)
    return {
      family: GM[Math.floor(program / 8) % 16],
      kind,
      isTold: true,
      reason: `program ${program + 1} of General MIDI`,
    };
  return { family: 'other', kind: 'solo', isTold: false, reason: 'no word Farlo knows' };
}

/** Whether words stand one behind the other. */
const holds = (words: readonly string[], phrase: readonly string[]): boolean =>
  words.some((_, at) => phrase.every((word, i) => words[at + i] === word));

/** The last word that a list knows: what comes before it says which one it is. */
function lastOf(
  words: readonly string[],
  lists: readonly [family: Family, words: string][],
): { family: Family; word: string } | undefined {
  for (const word of [...words].reverse())
    for (const [family, list] of lists) if (list.split(',').includes(word)) return { family, word };
  return undefined;
}
