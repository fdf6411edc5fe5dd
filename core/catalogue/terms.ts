import type { ArticulationId } from '../music/index.ts';
import type { Family } from './instrument.ts';

/** How a technique behaves in time; decides what leads it, what ends it and which controller rules it. */
export const ARTICULATION_GROUPS = ['connected', 'long', 'short', 'dynamic', 'pattern'] as const;
export type ArticulationGroup = (typeof ARTICULATION_GROUPS)[number];

/** One entry of the house vocabulary. */
export interface ArticulationTerm {
  id: ArticulationId;
  group: ArticulationGroup;
  name: string;
  /** Two letters for the trigger tab. */
  tab: string;
  /** What musicians write above the note. */
  written: string;
  /** How it stands in a score, in a few words. */
  notated: string;
  /** Words in file names and labels that point to this technique; several words must all stand there. */
  hints: readonly string[];
  /** What is played in its place where it is missing, nearest first. */
  standIns: readonly ArticulationId[];
  /** Families whose players have it. */
  families: readonly Family[];
}

type Line = readonly [
  id: string,
  families: string,
  tab: string,
  written: string,
  notated: string,
  hints: string,
  standIns: string,
];

/** Families by one letter: strings, winds, brass, percussion, keys, choir. */
const FAMILY_OF: Readonly<Record<string, Family>> = {
  s: 'strings',
  w: 'winds',
  b: 'brass',
  p: 'percussion',
  k: 'keys',
  c: 'choir',
};

/** The core list, group by group in the order of display. Lists are separated by commas; the id is the name. */
const LINES: Readonly<Record<ArticulationGroup, readonly Line[]>> = {
  connected: [
    ['connected', 'swbc', 'co', 'legato', 'slur', 'connected,legato,leg,slur,slurred', 'long,long plain'],
    [
      'slide',
      'swbc',
      'sl',
      'port.',
      'line from note to note',
      'slide,portamento,port,glissando,gliss',
      'connected,long',
    ],
    [
      'bow change',
      's',
      'bc',
      'détaché',
      'no slur',
      'bow change,rebow,bowchange,detache,détaché',
      'connected,long',
    ],
    [
      'runs',
      'swbc',
      'rn',
      'rapido',
      'slur over quick notes',
      'runs,run,fast legato,fast runs',
      'connected,staccato',
    ],
  ],
  long: [
    [
      'long',
      'swbc',
      'lg',
      'ten.',
      'plain note, or a dash',
      'long,longs,sustain,sustains,sus,sust,held,arco,tenuto',
      'long plain,connected,ah,tremolo',
    ],
    [
      'long plain',
      'swbc',
      'lp',
      'senza vib.',
      'words',
      'senza vib,no vib,non vib,nv,plain,senza,novib,nonvib',
      'long',
    ],
    [
      'muted',
      'sb',
      'mu',
      'con sord.',
      'words',
      'muted,con sord,sord,sordino,mute,cs',
      'over fingerboard,flute-like,long',
    ],
    [
      'near bridge',
      's',
      'nb',
      'sul pont.',
      'words',
      'near bridge,sul pont,pont,ponticello,sulpont',
      'long plain,long',
    ],
    [
      'over fingerboard',
      's',
      'of',
      'sul tasto',
      'words',
      'over fingerboard,sul tasto,tasto,sultasto',
      'flute-like,muted,long plain,long',
    ],
    [
      'flute-like',
      's',
      'fl',
      'flautando',
      'words',
      'flute like,flautando,flaut',
      'over fingerboard,long plain,long',
    ],
    [
      'harmonics',
      's',
      'ha',
      'arm.',
      'circle, or a diamond head',
      'harmonics,harmonic,harm,flageolet,flag',
      'flute-like,long plain,long',
    ],
    [
      'tremolo',
      's',
      'tr',
      'trem.',
      'three strokes through the stem',
      'tremolo,trem,tremolos',
      'repetition,long',
    ],
    [
      'trill half',
      'sw',
      'th',
      'tr ♭2',
      'tr with a flat',
      'trill half,trill ht,trill m2,trill minor,tr ht,trill1,trill',
      'trill whole,tremolo,long',
    ],
    [
      'trill whole',
      'sw',
      'tw',
      'tr ♮2',
      'tr with a natural',
      'trill whole,trill wt,trill major,tr wt,trill2',
      'trill half,tremolo,long',
    ],
    [
      'flutter',
      'wb',
      'ft',
      'flz.',
      'three strokes through the stem, with the word',
      'flutter,flz,flutt,fluttertongue',
      'long',
    ],
    ['ah', 'c', 'ah', '“ah”', 'text', 'ah,aah,aahs,vowel a', 'oh,oo,long,hum'],
    ['oh', 'c', 'oh', '“oh”', 'text', 'oh,ooh o,vowel o', 'ah,oo,long,hum'],
    ['oo', 'c', 'oo', '“oo”', 'text', 'oo,ooh,oohs,vowel u', 'hum,oh,ah,long'],
    ['ee', 'c', 'ee', '“ee”', 'text', 'ee,eeh,vowel i', 'ah,oo,long'],
    ['hum', 'c', 'hm', 'hum', 'text', 'hum,humming,mm,mmm', 'oo,oh,ah,long'],
  ],
  short: [
    [
      'staccato',
      'swbc',
      'st',
      'stacc.',
      'dot',
      'staccato,stacc,stac,short,shorts,stc',
      'off the string,staccatissimo,broad short,accented,damped',
    ],
    [
      'staccatissimo',
      'swb',
      'ss',
      'staccatiss.',
      'wedge',
      'staccatissimo,staccatiss,very short',
      'staccato,off the string',
    ],
    [
      'off the string',
      's',
      'os',
      'spicc.',
      'dot, with the word',
      'off the string,spiccato,spicc,spic',
      'staccato,staccatissimo',
    ],
    [
      'broad short',
      'swb',
      'bs',
      'port.',
      'dash and dot',
      'broad short,portato,portata,broad',
      'accented,staccato,long',
    ],
    [
      'accented',
      'swb',
      'ac',
      'marc.',
      'wedge lying down',
      'accented,accent,marcato,marc,sforzando,sfz',
      'broad short,staccato,long',
    ],
    ['pizzicato', 's', 'pz', 'pizz.', 'words', 'pizzicato,pizz,plucked', 'snapped,off the string,staccato'],
    [
      'snapped',
      's',
      'sn',
      'pizz. à la B.',
      'circle with a stroke',
      'snapped,snap,bartok,bartók',
      'pizzicato,with the wood',
    ],
    [
      'with the wood',
      's',
      'ww',
      'col legno',
      'words',
      'with the wood,col legno,legno,collegno',
      'off the string,staccatissimo,staccato',
    ],
    ['consonants', 'c', 'cn', '', 'text', 'consonants,consonant,cons', 'staccato'],
    ['hit', 'pk', 'ht', '', 'plain note', 'hit,hits,strike,struck,stroke,strokes', 'damped,staccato,long'],
    [
      'damped',
      'pk',
      'dm',
      'secco',
      'plain note, with the word',
      'damped,secco,choke,choked,dead',
      'hit,staccato',
    ],
  ],
  dynamic: [
    [
      'swell',
      'swbcp',
      'sw',
      '<>',
      'two hairpins',
      'swell,swells,sfp,messa di voce',
      'crescendo short,long,roll',
    ],
    [
      'crescendo short',
      'swbcp',
      'c1',
      'cresc.',
      'hairpin',
      'crescendo short,cresc short,short cresc,cresc,crescendo',
      'crescendo long,swell,long,roll',
    ],
    [
      'crescendo long',
      'swbcp',
      'c2',
      'cresc.',
      'hairpin',
      'crescendo long,cresc long,long cresc',
      'crescendo short,swell,long,roll',
    ],
    [
      'diminuendo short',
      'swbc',
      'd1',
      'dim.',
      'hairpin',
      'diminuendo short,dim short,short dim,diminuendo,decrescendo,decresc',
      'diminuendo long,long',
    ],
    [
      'diminuendo long',
      'swbc',
      'd2',
      'dim.',
      'hairpin',
      'diminuendo long,dim long,long dim',
      'diminuendo short,long',
    ],
  ],
  pattern: [
    ['roll', 'p', 'ro', 'tr~', 'tr with a wavy line', 'roll,rolls', 'tremolo,repetition,hit'],
    [
      'repetition',
      'swbp',
      're',
      'rep.',
      'repeated notes',
      'repetition,repetitions,rep,repeats',
      'tremolo,staccato',
    ],
    ['fall', 'wbs', 'fa', 'fall', 'line falling from the note', 'fall,falls,doit', 'diminuendo short,long'],
    ['cluster', 'swbck', 'cl', 'cluster', 'thick block', 'cluster,clusters', 'tremolo,long'],
    ['noises', 'swbpkc', 'no', '', 'cross head', 'noise,noises,fx,effects', ''],
  ],
};

const list = (text: string) => (text === '' ? [] : text.split(','));

/** The closed core list. */
export const CORE_TERMS: readonly ArticulationTerm[] = ARTICULATION_GROUPS.flatMap((group) =>
  LINES[group].map(([id, families, tab, written, notated, hints, standIns]): ArticulationTerm => ({
    id,
    group,
    name: id,
    tab,
    written,
    notated,
    hints: list(hints),
    standIns: list(standIns),
    families: [...families].map((letter) => FAMILY_OF[letter]),
  })),
);
