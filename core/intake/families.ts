import { wordsOf, type Family, type InstrumentKind } from '../catalogue/index.ts';

/** What a name tells of an instrument, and which word told it. */
export interface FamilyGuess {
  family: Family;
  kind: InstrumentKind;
  reason: string;
}

const WORDS: readonly [family: Family, words: string][] = [
  [
    'strings',
    'strings,string,violin,violins,viola,violas,cello,cellos,celli,bass,basses,contrabass,fiddle,vln,vla,vc,cb',
  ],
  [
    'winds',
    'wind,winds,flute,flutes,piccolo,oboe,oboes,clarinet,clarinets,bassoon,bassoons,horn english,recorder,whistle,whistles,sax,saxophone,ocarina,pan',
  ],
  ['brass', 'brass,horn,horns,trumpet,trumpets,trombone,trombones,tuba,cornet,euphonium'],
  [
    'percussion',
    'percussion,drum,drums,timpani,timpano,cymbal,cymbals,snare,kit,bell,bells,glockenspiel,xylophone,marimba,vibraphone,gong,triangle,tambourine,toms,tom',
  ],
  ['keys', 'piano,keys,celesta,harpsichord,organ,harp,clavinet,epiano,accordion'],
  ['choir', 'choir,voice,voices,vocal,women,men,soprano,alto,tenor,chorus,aahs,oohs'],
];

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

/** Family and kind of an instrument by the words in its name. @param program General MIDI program, where one is known */
export function guessFamily(name: string, program?: number): FamilyGuess {
  const words = wordsOf(name);
  const plural = words.some((word) => word.length > 3 && word.endsWith('s') && !word.endsWith('ss'));
  const kind: InstrumentKind =
    words.includes('ensemble') || words.includes('section') || plural ? 'section' : 'solo';
  for (const [family, list] of WORDS) {
    const word = list.split(',').find((candidate) => words.includes(candidate));
    if (word) return { family, kind, reason: `“${word}” is in its name` };
  }
  if (program !== undefined)
    return {
      family: GM[Math.floor(program / 8) % 16],
      kind,
      reason: `program ${program + 1} of General MIDI`,
    };
  return { family: 'other', kind: 'solo', reason: 'no word Farlo knows' };
}
