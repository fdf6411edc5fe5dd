/**
 * Faults planted in the demo libraries on purpose, as real libraries have them. The recordings are made from this table,
 * so what it says is what sounds; tests and the help read it, nothing else does.
 */
export const FAULTS = {
  /** The loudest layer of the trumpets was set louder and takes over at once: a step in loudness and tone. */
  layerStep: {
    kind: 'layer step',
    library: 'Brackwater Brass',
    instrument: 'Trumpets',
    articulation: 'long',
    /** Layer that steps, dB it is too loud, and dynamics at which it takes over. */
    layer: 2,
    gainDb: 6,
    at: 90,
    width: 4,
  },
  /** Staccato of the bassoon speaks late, every take by another amount. */
  lateShort: {
    kind: 'late and uneven short',
    library: 'Pellory Winds',
    instrument: 'Bassoon',
    articulation: 'staccato',
    /** Seconds added to each take. */
    lateSeconds: [0.022, 0.058, 0.036],
  },
  /** Some takes of Flute 2's staccato are those of the neighbour root. */
  borrowedTakes: {
    kind: 'borrowed takes',
    library: 'Pellory Winds',
    instrument: 'Flute 2',
    articulation: 'staccato',
    take: 2,
  },
  /** The third take of the small violins' staccato is the first again. */
  repeatedTake: {
    kind: 'repeated take',
    library: 'Tarrowby Chamber',
    instrument: 'Violins',
    articulation: 'staccato',
    take: 2,
    same: 0,
  },
  /** One root of the grand piano stands sharp. */
  mistunedZone: {
    kind: 'mistuned zone',
    library: 'Pilot House Keys',
    instrument: 'Grand piano',
    articulation: 'hit',
    root: 67,
    cents: 23,
  },
  /** The held notes of the tuba repeat a loop too short to live. */
  staticLoop: {
    kind: 'static loop',
    library: 'Brackwater Brass',
    instrument: 'Tuba',
    articulation: 'long',
    loopSeconds: [0.5, 0.58],
  },
  /** The clarinet's staccato is much louder than its other techniques. */
  loudArticulation: {
    kind: 'articulation out of level',
    library: 'Pellory Winds',
    instrument: 'Clarinet',
    articulation: 'staccato',
    gainDb: 8,
  },
  /** The far position of the winds hisses. */
  noisyPosition: { kind: 'noisy position', library: 'Pellory Winds', position: 'far', noiseDb: -58 },
  /** The close pair of the brass stands nearly in one point. */
  narrowClose: { kind: 'narrow close position', library: 'Brackwater Brass', position: 'close' },
  /** Something in the solo cello rings along near one pitch. */
  ringing: {
    kind: 'ringing resonance',
    library: 'Tarrowby Soloists',
    instrument: 'Solo cello',
    hertz: 233,
    q: 45,
    gain: 2.5,
  },
  /** Moves upwards of a fifth and more are slow in the solo violin. */
  slowTransition: {
    kind: 'slow transition',
    library: 'Tarrowby Soloists',
    instrument: 'Solo violin',
    articulation: 'connected',
    fromInterval: 7,
    lateSeconds: 0.09,
  },
  /** The second violins of the large strings lack techniques that the others have. */
  lackingSection: {
    kind: 'missing techniques',
    library: 'Wrenlow Strings, large',
    instrument: 'Violins II',
    techniques: ['flute-like', 'harmonics', 'with the wood'],
  },
  /** The long roll of the timpani does not say how long it takes. */
  unmarkedRoll: {
    kind: 'roll with no marked length',
    library: 'Harbour Percussion',
    instrument: 'Timpani',
    articulation: 'roll',
  },
} as const;
