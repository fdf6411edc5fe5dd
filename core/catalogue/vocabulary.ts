import type { ArticulationId } from '../music/index.ts';

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
  /** Words in file names and labels that point to this technique; several words must all stand there. */
  hints: readonly string[];
}

type Line = [id: string, group: ArticulationGroup, tab: string, written: string, hints: string];

/** Hints are separated by commas. The id is the name. Order is the order of display. */
const LINES: readonly Line[] = [
  ['connected', 'connected', 'co', 'legato', 'connected,legato,leg,slur,slurred'],
  ['slide', 'connected', 'sl', 'port.', 'slide,portamento,port,glissando,gliss'],
  ['bow change', 'connected', 'bc', 'détaché', 'bow change,rebow,bowchange,detache,détaché'],
  ['runs', 'connected', 'rn', 'rapido', 'runs,run,fast legato,fast runs'],
  ['long', 'long', 'lg', 'ten.', 'long,longs,sustain,sustains,sus,sust,held,arco,tenuto'],
  ['long plain', 'long', 'lp', 'senza vib.', 'senza vib,no vib,non vib,nv,plain,senza,novib,nonvib'],
  ['muted', 'long', 'mu', 'con sord.', 'muted,con sord,sord,sordino,mute,cs'],
  ['near bridge', 'long', 'nb', 'sul pont.', 'near bridge,sul pont,pont,ponticello,sulpont'],
  ['over fingerboard', 'long', 'of', 'sul tasto', 'over fingerboard,sul tasto,tasto,sultasto'],
  ['flute-like', 'long', 'fl', 'flautando', 'flute like,flautando,flaut'],
  ['harmonics', 'long', 'ha', 'arm.', 'harmonics,harmonic,harm,flageolet,flag'],
  ['tremolo', 'long', 'tr', 'trem.', 'tremolo,trem,tremolos'],
  ['trill half', 'long', 'th', 'tr ♭2', 'trill half,trill ht,trill m2,trill minor,tr ht,trill1,trill'],
  ['trill whole', 'long', 'tw', 'tr ♮2', 'trill whole,trill wt,trill major,tr wt,trill2'],
  ['flutter', 'long', 'ft', 'flz.', 'flutter,flz,flutt,fluttertongue'],
  ['ah', 'long', 'ah', '“ah”', 'ah,aah,aahs,vowel a'],
  ['oh', 'long', 'oh', '“oh”', 'oh,ooh o,vowel o'],
  ['oo', 'long', 'oo', '“oo”', 'oo,ooh,oohs,vowel u'],
  ['ee', 'long', 'ee', '“ee”', 'ee,eeh,vowel i'],
  ['hum', 'long', 'hm', 'hum', 'hum,humming,mm,mmm'],
  ['staccato', 'short', 'st', 'stacc.', 'staccato,stacc,stac,short,shorts,stc'],
  ['staccatissimo', 'short', 'ss', 'staccatiss.', 'staccatissimo,staccatiss,very short'],
  ['off the string', 'short', 'os', 'spicc.', 'off the string,spiccato,spicc,spic'],
  ['broad short', 'short', 'bs', 'port.', 'broad short,portato,portata,broad'],
  ['accented', 'short', 'ac', 'marc.', 'accented,accent,marcato,marc,sforzando,sfz'],
  ['pizzicato', 'short', 'pz', 'pizz.', 'pizzicato,pizz,plucked'],
  ['snapped', 'short', 'sn', 'pizz. à la B.', 'snapped,snap,bartok,bartók'],
  ['with the wood', 'short', 'ww', 'col legno', 'with the wood,col legno,legno,collegno'],
  ['consonants', 'short', 'cn', '', 'consonants,consonant,cons'],
  ['hit', 'short', 'ht', '', 'hit,hits,strike,struck,stroke,strokes'],
  ['damped', 'short', 'dm', 'secco', 'damped,secco,choke,choked,dead'],
  ['swell', 'dynamic', 'sw', '<>', 'swell,swells,sfp,messa di voce'],
  ['crescendo short', 'dynamic', 'c1', 'cresc.', 'crescendo short,cresc short,short cresc,cresc,crescendo'],
  ['crescendo long', 'dynamic', 'c2', 'cresc.', 'crescendo long,cresc long,long cresc'],
  [
    'diminuendo short',
    'dynamic',
    'd1',
    'dim.',
    'diminuendo short,dim short,short dim,diminuendo,decrescendo,decresc',
  ],
  ['diminuendo long', 'dynamic', 'd2', 'dim.', 'diminuendo long,dim long,long dim'],
  ['roll', 'pattern', 'ro', 'tr~', 'roll,rolls'],
  ['repetition', 'pattern', 're', 'rep.', 'repetition,repetitions,rep,repeats'],
  ['fall', 'pattern', 'fa', 'fall', 'fall,falls,doit'],
  ['cluster', 'pattern', 'cl', 'cluster', 'cluster,clusters'],
  ['noises', 'pattern', 'no', '', 'noise,noises,fx,effects'],
];

/** The closed core list. */
export const VOCABULARY: readonly ArticulationTerm[] = LINES.map(([id, group, tab, written, hints]) => ({
  id,
  group,
  name: id,
  tab,
  written,
  hints: hints.split(','),
}));

const BY_ID = new Map(VOCABULARY.map((term) => [term.id, term]));

/** The term of an id; an id outside the core list is a user's own long technique under its own name. */
export function articulationTerm(id: ArticulationId): ArticulationTerm {
  const known = BY_ID.get(id) ?? BY_ID.get(id.replace(/ \d+$/, ''));
  if (known) return id === known.id ? known : { ...known, id, name: id };
  return { id, group: 'long', name: id, tab: id.slice(0, 2).toLowerCase(), written: id, hints: [] };
}

/** A guess with the hint that led to it. */
export interface ArticulationGuess {
  term: ArticulationTerm;
  hint: string;
}

/** Words of a label: runs of letters, `SusVib` read as two. */
export function wordsOf(label: string): string[] {
  return label
    .replace(/(\p{Ll})(\p{Lu})/gu, '$1 $2')
    .toLowerCase()
    .split(/[^\p{L}]+/u)
    .filter(Boolean);
}

/** Ways to colour another technique: “tremolo, near the bridge” is a tremolo, but “long, near the bridge” is not just long. */
const COLOURS = new Set(['long plain', 'muted', 'near bridge', 'over fingerboard', 'flute-like']);
const rank = (id: string) => (id === 'long' ? 0 : COLOURS.has(id) ? 100 : 200);

/** The term whose hint stands in a label word by word, the most telling hint first; undefined when none does. */
export function guessArticulation(label: string): ArticulationGuess | undefined {
  const words = new Set(wordsOf(label));
  let best: ArticulationGuess | undefined;
  let weight = -1;
  for (const term of VOCABULARY)
    for (const hint of term.hints)
      if (rank(term.id) + hint.length > weight && hint.split(' ').every((word) => words.has(word)))
        [best, weight] = [{ term, hint }, rank(term.id) + hint.length];
  return best;
}
