import 'reflect-metadata';
import {
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsOptional,
  IsString,
  Length,
  Matches,
  Max,
  MaxLength,
  Min,
} from 'class-validator';
import { ARTICULATION_GROUPS, FAMILIES, type ArticulationGroup, type Family } from '#core/catalogue/index.ts';
import {
  PARAMETER_IDS,
  SHORT_DYNAMICS,
  SOURCE_PARTS,
  TRIGGER_KINDS,
  type ParameterId,
  type ShortDynamics,
  type SourcePart,
  type TriggerKind,
} from '#core/keymap/index.ts';
import { BPM, METRE } from '#core/music/index.ts';
import { EQ_KINDS, type EqKind, LISTENER_METRES, STAGE } from '#core/mixing/index.ts';
import { HALL_LIMITS, HARBOUR_HALL } from '#core/rooms/index.ts';

/** Shapes of everything that can be edited. Each record has an id, a version, and belongs to one document. */

/** Ids as they travel: lower case, since the database would take two spellings for one. */
export const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;
const UUID_LENGTH = 36;
/** Verdicts on an instrument; empty while there is none. */
export const VERDICTS = ['', 'keep', 'reserve', 'pass'] as const;
export type Verdict = (typeof VERDICTS)[number];
/** No cue is longer. */
export const LAST_TICK = 2_000_000_000;

/** The template itself: its name and the shared hall. */
export class TemplateRecord {
  @IsString() @Length(1, 120) name!: string;
  @IsNumber() @Min(-60) @Max(12) hallEarlyDb!: number;
  @IsNumber() @Min(-60) @Max(12) hallTailDb!: number;
  @IsInt() @IsIn([3, 4]) middleC!: 3 | 4;
  /** Id of a hall that ships with Farlo (`SHARED_HALLS`), or of the studio's own impulse response. */
  @IsString() @Length(1, 40) hall!: string;
  /** See `HallSettings`. */
  @IsNumber() @Min(HALL_LIMITS.size[0]) @Max(HALL_LIMITS.size[1]) hallSize!: number;
  @IsNumber()
  @Min(HALL_LIMITS.decaySeconds[0])
  @Max(HALL_LIMITS.decaySeconds[1])
  hallDecaySeconds!: number;
  @IsNumber() @Min(HALL_LIMITS.damping[0]) @Max(HALL_LIMITS.damping[1]) hallDamping!: number;
  @IsNumber() @Min(HALL_LIMITS.preDelayMs[0]) @Max(HALL_LIMITS.preDelayMs[1]) hallPreDelayMs!: number;
  @IsNumber() @Min(HALL_LIMITS.lowCutHz[0]) @Max(HALL_LIMITS.lowCutHz[1]) hallLowCutHz!: number;
  @IsNumber() @Min(HALL_LIMITS.highCutHz[0]) @Max(HALL_LIMITS.highCutHz[1]) hallHighCutHz!: number;
  /** How far behind the conductor the one stands who listens, for the seating plan. */
  @IsNumber() @Min(LISTENER_METRES[0]) @Max(LISTENER_METRES[1]) listenerMetres!: number;
}

/** A template as it begins. */
export const PLAIN_TEMPLATE: TemplateRecord = {
  name: 'New template',
  hallEarlyDb: -3,
  hallTailDb: 0,
  middleC: 4,
  hall: 'harbour',
  hallSize: 1,
  hallDecaySeconds: HARBOUR_HALL.decaySeconds,
  hallDamping: 0.5,
  hallPreDelayMs: 0,
  hallLowCutHz: 20,
  hallHighCutHz: 20_000,
  listenerMetres: 2,
};

/** A track of the template. */
export class TrackRecord {
  @IsString() @Length(1, 120) name!: string;
  @IsIn(FAMILIES) family!: Family;
  @IsNumber() place!: number;
  @IsOptional() @Matches(UUID) instrumentId!: string | null;
  /** Keymap of the house it is played by; null is the house's own for its instrument. */
  @IsOptional() @Matches(UUID) keymapId!: string | null;
  @IsString() @Length(1, 60) articulation!: string;
  @IsIn(['immediate', 'natural', 'planned']) mode!: 'immediate' | 'natural' | 'planned';
  @IsNumber() @Min(-60) @Max(12) gainDb!: number;
  @IsNumber() @Min(-1) @Max(1) pan!: number;
  @IsNumber() @Min(-60) @Max(12) hallSendDb!: number;
  /** Silent in the template, for everybody and in bounces. What a person mutes while working is their own. */
  @IsBoolean() muted!: boolean;
}

/** Mix of one microphone position of a track. */
export class PositionMixRecord {
  @Matches(UUID) trackId!: string;
  @IsString() @Length(1, 40) positionId!: string;
  @IsNumber() @Min(-60) @Max(12) levelDb!: number;
  @IsNumber() @Min(-1) @Max(1) pan!: number;
  @IsNumber() @Min(0) @Max(2) width!: number;
  @IsNumber() @Min(0) @Max(100) delayMs!: number;
  @IsBoolean() muted!: boolean;
  @IsBoolean() inverted!: boolean;
  /** What of it goes to the hall, against the track's send. */
  @IsNumber() @Min(-60) @Max(12) sendDb!: number;
  /** Stem it goes to when the cue is written in stems; empty is that of its family. */
  @IsString() @MaxLength(60) stem!: string;
}

/** One broad band of the tone of a track, or of one of its positions. */
export class EqBandRecord {
  @Matches(UUID) trackId!: string;
  /** Empty is the whole track. */
  @IsString() @MaxLength(40) positionId!: string;
  @IsIn(EQ_KINDS) shape!: EqKind;
  @IsNumber() @Min(20) @Max(20_000) hertz!: number;
  @IsNumber() @Min(-18) @Max(18) gainDb!: number;
  @IsNumber() @Min(0.2) @Max(8) q!: number;
  @IsBoolean() active!: boolean;
}

/** Tracks whose cells move together, each keeping its difference. */
export class LinkRecord {
  @IsString() @Length(1, 120) name!: string;
  /** Ids of tracks, separated by “|”. */
  @IsString() @MaxLength(4000) trackIds!: string;
  @IsBoolean() active!: boolean;
}

/** The slots mixes are compared in. */
export const SLOTS = ['A', 'B', 'C'] as const;
export type Slot = (typeof SLOTS)[number];

/** A mix of all tracks, kept in a slot to compare with others. */
export class SnapshotRecord {
  @IsIn(SLOTS) slot!: Slot;
  /** See `core/balance`. */
  @IsString() @MaxLength(400_000) mix!: string;
}

/** Where a track sits, seen from the conductor: metres to the right and to the back. */
export class SeatRecord {
  @Matches(UUID) trackId!: string;
  @IsNumber() @Min(STAGE.left) @Max(STAGE.right) x!: number;
  @IsNumber() @Min(STAGE.front) @Max(STAGE.back) y!: number;
}

/** What a track is to reach in the balance; null is no aim. */
export class AimRecord {
  @Matches(UUID) trackId!: string;
  /** Loudness against that of all, LU. */
  @IsOptional() @IsNumber() @Min(-60) @Max(20) loudnessDb!: number | null;
  /** Direct sound against the room. */
  @IsOptional() @IsNumber() @Min(-30) @Max(40) depthDb!: number | null;
  /** Level of the difference of the sides against their sum. */
  @IsOptional() @IsNumber() @Min(-60) @Max(12) sideDb!: number | null;
}

/** The cue itself. */
export class CueRecord {
  @IsString() @Length(1, 120) name!: string;
  @IsInt() @Min(0) @Max(LAST_TICK) endTick!: number;
  @IsInt() @Min(0) @Max(LAST_TICK) loopStartTick!: number;
  @IsInt() @Min(0) @Max(LAST_TICK) loopEndTick!: number;
}

export class TempoRecord {
  @IsInt() @Min(0) @Max(LAST_TICK) tick!: number;
  @IsNumber() @Min(BPM.low) @Max(BPM.high) bpm!: number;
  /** Moves evenly to the next change, quarter by quarter. */
  @IsBoolean() ramp!: boolean;
}

export class MetreRecord {
  @IsInt() @Min(0) @Max(LAST_TICK) tick!: number;
  @IsInt() @Min(1) @Max(METRE.mostBeats) numerator!: number;
  @IsIn(METRE.beats) denominator!: number;
}

/** A key signature from a place on. */
export class SignatureRecord {
  @IsInt() @Min(0) @Max(LAST_TICK) tick!: number;
  /** Sharps above 0, flats below. */
  @IsInt() @Min(-7) @Max(7) fifths!: number;
}

/** A text at a place of the cue. */
export class MarkerRecord {
  @IsInt() @Min(0) @Max(LAST_TICK) tick!: number;
  @IsString() @MaxLength(400) text!: string;
}

/** What a cue holds for one track of its template. */
export class PartRecord {
  @Matches(UUID) trackId!: string;
}

export class NoteRecord {
  @Matches(UUID) partId!: string;
  @IsInt() @Min(0) @Max(LAST_TICK) startTick!: number;
  @IsInt() @Min(1) @Max(LAST_TICK) endTick!: number;
  @IsInt() @Min(0) @Max(127) key!: number;
  @IsInt() @Min(1) @Max(127) velocity!: number;
  /** What is sung on it, or empty; see `core/music`. */
  @IsString() @MaxLength(60) syllable!: string;
}

export class MarkRecord {
  @Matches(UUID) partId!: string;
  @IsInt() @Min(0) @Max(LAST_TICK) startTick!: number;
  @IsInt() @Min(1) @Max(LAST_TICK) endTick!: number;
  @IsString() @Length(1, 60) articulation!: string;
}

export class PointRecord {
  @Matches(UUID) partId!: string;
  @IsInt() @Min(0) @Max(128) controller!: number;
  @IsInt() @Min(0) @Max(LAST_TICK) tick!: number;
  @IsNumber() @Min(0) @Max(128) value!: number;
}

/** One of several times that something was played for a track, to choose from. */
export class TakeRecord {
  @Matches(UUID) trackId!: string;
  @IsString() @Length(1, 120) name!: string;
  @IsNumber() place!: number;
  /** Where it was played: notes that begin in [fromTick, toTick). */
  @IsInt() @Min(0) @Max(LAST_TICK) fromTick!: number;
  @IsInt() @Min(1) @Max(LAST_TICK) toTick!: number;
  /** Notes, marks and curves, counted from there; see `core/listen`. */
  @IsString() @MaxLength(400_000) written!: string;
}

/** A place of a level that moves in the cue: what is added to a position's own level there, dB; straight from one to the next. */
export class LevelPointRecord {
  @Matches(UUID) trackId!: string;
  @IsString() @Length(1, 40) positionId!: string;
  @IsInt() @Min(0) @Max(LAST_TICK) tick!: number;
  @IsNumber() @Min(-60) @Max(24) levelDb!: number;
}

/** What a studio thinks of the sounds it owns: opened as one document. */
export class ShelfRecord {
  @IsString() @Length(1, 120) name!: string;
}

/** A studio's own word on one instrument. */
export class ShelfMarkRecord {
  @Matches(UUID) instrumentId!: string;
  @IsBoolean() starred!: boolean;
  @IsIn(VERDICTS) verdict!: Verdict;
  @IsString() @MaxLength(2000) note!: string;
  /** Articulation ids that are not to be loaded, separated by “|”. */
  @IsString() @MaxLength(2000) off!: string;
  /** Instrument whose place it takes, or empty. */
  @IsString() @MaxLength(UUID_LENGTH) replaces!: string;
}

/** A set of contenders that are listened to side by side. */
export class LineUpRecord {
  @IsString() @Length(1, 120) name!: string;
}

/** One contender of a line-up: a technique of an instrument, or (articulation empty) the whole instrument. */
export class ContenderRecord {
  @Matches(UUID) lineUpId!: string;
  @Matches(UUID) instrumentId!: string;
  @IsString() @MaxLength(60) articulation!: string;
  @IsNumber() place!: number;
}

/** Which contender was preferred in a phrase. */
export class PreferenceRecord {
  @Matches(UUID) lineUpId!: string;
  @IsString() @Length(1, 60) phrase!: string;
  @Matches(UUID) contenderId!: string;
}

/** An answered round of blind listening: contender ids, best first, separated by “|”. */
export class BlindRoundRecord {
  @Matches(UUID) lineUpId!: string;
  @IsString() @Length(1, 60) phrase!: string;
  @IsString() @Length(UUID_LENGTH, 2000) ranking!: string;
}

/** A test phrase of the studio's own. */
export class OwnPhraseRecord {
  @IsString() @Length(1, 120) name!: string;
  @IsIn(ARTICULATION_GROUPS) suits!: ArticulationGroup;
  @IsNumber() @Min(BPM.low) @Max(BPM.high) bpm!: number;
  /** Notes and curves; see `core/listen`. */
  @IsString() @MaxLength(60_000) written!: string;
}

/** A remark at a moment of a phrase. */
export class RemarkRecord {
  @Matches(UUID) instrumentId!: string;
  @IsString() @Length(1, 60) phrase!: string;
  @IsNumber() @Min(0) @Max(3600) atSeconds!: number;
  @IsString() @Length(1, 400) text!: string;
}

/** Something sounds are scored by. */
export class CriterionRecord {
  @IsString() @Length(1, 60) name!: string;
  /** How much it counts, 0 … 3. */
  @IsNumber() @Min(0) @Max(3) weight!: number;
  @IsNumber() place!: number;
}

/** What an instrument scores by a criterion, 0 … 10. */
export class ScoreRecord {
  @Matches(UUID) criterionId!: string;
  @Matches(UUID) instrumentId!: string;
  @IsNumber() @Min(0) @Max(10) score!: number;
}

/** Something the studio still lacks; open while no instrument fills it. */
export class GapRecord {
  @IsString() @Length(1, 120) name!: string;
  @IsString() @MaxLength(UUID_LENGTH) filledBy!: string;
}

/** A saved sound: an articulation with its settings. */
export class SoundRecord {
  @IsString() @Length(1, 120) name!: string;
  /** Words to find it by, separated by commas. */
  @IsString() @MaxLength(400) tags!: string;
  @Matches(UUID) instrumentId!: string;
  @IsString() @Length(1, 60) articulation!: string;
  @IsInt() @Min(0) @Max(127) dynamics!: number;
  @IsInt() @Min(0) @Max(127) vibrato!: number;
  /** Level of each position in dB, as “close:-4|tree:0”. */
  @IsString() @MaxLength(400) levels!: string;
}

/** What a studio has agreed on: its words, its keymaps, and the rules by which keyswitches are given. */
export class HouseRecord {
  @IsString() @Length(1, 120) name!: string;
  @IsIn(['below', 'above', 'wider']) ruleSide!: 'below' | 'above' | 'wider';
  /** Keys left free between a playing range and the nearest switch. */
  @IsInt() @Min(0) @Max(24) ruleGuardKeys!: number;
  @IsBoolean() ruleSameKeys!: boolean;
  @IsIn(['used', 'first']) ruleNearest!: 'used' | 'first';
}

/** A word the studio adds to the vocabulary, or has its own mind about. */
export class TermRecord {
  @IsString() @Matches(/\S/, { message: 'The word needs a name.' }) @MaxLength(60) articulation!: string;
  @IsIn(ARTICULATION_GROUPS) group!: ArticulationGroup;
  @IsString() @Length(1, 2) tab!: string;
  @IsString() @MaxLength(40) written!: string;
  @IsString() @MaxLength(80) notated!: string;
  /** Words in labels that point to it, separated by commas. */
  @IsString() @MaxLength(400) hints!: string;
  /** What stands in for it, nearest first, separated by “|”. */
  @IsString() @MaxLength(600) standIns!: string;
}

/** A mix under a name, for every template of the studio. */
export class KeptMixRecord {
  @IsString() @Matches(/\S/, { message: 'The mix needs a name.' }) @MaxLength(120) name!: string;
  @IsString() @MaxLength(400_000) mix!: string;
}

/** A way to seat an orchestra, for every template of the studio. */
export class KeptSeatingRecord {
  @IsString() @Matches(/\S/, { message: 'The seating needs a name.' }) @MaxLength(120) name!: string;
  /** See `core/mixing`. */
  @IsString() @MaxLength(200_000) seats!: string;
}

/** How one instrument, or several of a kind, answer to what is played. */
export class KeymapRecord {
  @IsString() @Matches(/\S/, { message: 'The keymap needs a name.' }) @MaxLength(120) name!: string;
  /** Ids of the instruments it is made for, separated by “|”. */
  @IsString() @MaxLength(2000) instruments!: string;
  /** Articulation that holds from the beginning; empty is none. */
  @IsString() @MaxLength(60) initial!: string;
  /** Keymap it departs from, for the track that keeps it as its own; both empty for one of the house. */
  @IsString() @MaxLength(UUID_LENGTH) variantOf!: string;
  @IsString() @MaxLength(UUID_LENGTH) trackId!: string;
  /** What velocity does to long notes, and dynamics to short ones; see `TouchRules` in core/keymap. */
  @IsNumber() @Min(0) @Max(40) longVelocityDb!: number;
  @IsInt() @Min(0) @Max(127) hardAttackFrom!: number;
  @IsInt() @Min(0) @Max(127) slideBelow!: number;
  @IsInt() @Min(0) @Max(127) bowFrom!: number;
  @IsIn(SHORT_DYNAMICS) shortDynamics!: ShortDynamics;
}

/** A parameter of a keymap that is not ridden as usual. */
export class RideRecord {
  @Matches(UUID) keymapId!: string;
  @IsIn(PARAMETER_IDS) parameter!: ParameterId;
  @IsInt() @Min(0) @Max(127) controller!: number;
  @IsNumber() @Min(-1) @Max(1) curve!: number;
  @IsInt() @Min(0) @Max(127) low!: number;
  @IsInt() @Min(0) @Max(127) high!: number;
  @IsInt() @Min(0) @Max(127) rest!: number;
  /** Parameter whose controller moves this one too; empty is none. */
  @IsIn(['', ...PARAMETER_IDS]) follows!: ParameterId | '';
}

/** One articulation of a keymap. */
export class EntryRecord {
  @Matches(UUID) keymapId!: string;
  @IsString() @Length(1, 60) articulation!: string;
  @IsNumber() place!: number;
  /** Controller that goes from one of its sources to the next; −1 is none. */
  @IsInt() @Min(-1) @Max(127) morph!: number;
}

/** One articulation that sounds for an entry. */
export class SourceRecord {
  @Matches(UUID) entryId!: string;
  @IsString() @Length(1, 60) articulation!: string;
  @IsNumber() place!: number;
  @IsNumber() @Min(-60) @Max(12) levelDb!: number;
  @IsInt() @Min(1) @Max(127) velocityLow!: number;
  @IsInt() @Min(1) @Max(127) velocityHigh!: number;
  @IsIn(SOURCE_PARTS) part!: SourcePart;
  @IsInt() @Min(0) @Max(127) morphAt!: number;
}

/** One condition that selects an entry; see `core/keymap`. */
export class TriggerRecord {
  @Matches(UUID) entryId!: string;
  @IsIn(TRIGGER_KINDS) kind!: TriggerKind;
  /** Conditions of the same number must hold together. */
  @IsInt() @Min(0) @Max(15) alternative!: number;
  @IsInt() @Min(0) @Max(16383) number!: number;
  @IsInt() @Min(0) @Max(127) low!: number;
  @IsInt() @Min(0) @Max(127) high!: number;
  @IsIn(['latching', 'held']) hold!: 'latching' | 'held';
}

/** What an instrument's own articulation is in the house vocabulary. */
export class TranslationRecord {
  @Matches(UUID) instrumentId!: string;
  @IsString() @Length(1, 60) articulation!: string;
  @IsString() @Length(1, 60) term!: string;
  @IsNumber() @Min(-60) @Max(12) levelDb!: number;
  @IsInt() @Min(1) @Max(127) velocityLow!: number;
  @IsInt() @Min(1) @Max(127) velocityHigh!: number;
}

/** Which shape and which document belong to each kind of record. */
export const RECORD_KINDS = {
  template: { document: 'template', shape: TemplateRecord },
  track: { document: 'template', shape: TrackRecord },
  positionMix: { document: 'template', shape: PositionMixRecord },
  eqBand: { document: 'template', shape: EqBandRecord },
  link: { document: 'template', shape: LinkRecord },
  snapshot: { document: 'template', shape: SnapshotRecord },
  aim: { document: 'template', shape: AimRecord },
  seat: { document: 'template', shape: SeatRecord },
  cue: { document: 'cue', shape: CueRecord },
  tempo: { document: 'cue', shape: TempoRecord },
  metre: { document: 'cue', shape: MetreRecord },
  signature: { document: 'cue', shape: SignatureRecord },
  marker: { document: 'cue', shape: MarkerRecord },
  part: { document: 'cue', shape: PartRecord },
  note: { document: 'cue', shape: NoteRecord },
  mark: { document: 'cue', shape: MarkRecord },
  point: { document: 'cue', shape: PointRecord },
  levelPoint: { document: 'cue', shape: LevelPointRecord },
  take: { document: 'cue', shape: TakeRecord },
  shelf: { document: 'shelf', shape: ShelfRecord },
  shelfMark: { document: 'shelf', shape: ShelfMarkRecord },
  sound: { document: 'shelf', shape: SoundRecord },
  lineUp: { document: 'shelf', shape: LineUpRecord },
  contender: { document: 'shelf', shape: ContenderRecord },
  preference: { document: 'shelf', shape: PreferenceRecord },
  blindRound: { document: 'shelf', shape: BlindRoundRecord },
  ownPhrase: { document: 'shelf', shape: OwnPhraseRecord },
  remark: { document: 'shelf', shape: RemarkRecord },
  criterion: { document: 'shelf', shape: CriterionRecord },
  score: { document: 'shelf', shape: ScoreRecord },
  gap: { document: 'shelf', shape: GapRecord },
  house: { document: 'house', shape: HouseRecord },
  term: { document: 'house', shape: TermRecord },
  keymap: { document: 'house', shape: KeymapRecord },
  entry: { document: 'house', shape: EntryRecord },
  source: { document: 'house', shape: SourceRecord },
  trigger: { document: 'house', shape: TriggerRecord },
  ride: { document: 'house', shape: RideRecord },
  translation: { document: 'house', shape: TranslationRecord },
  keptMix: { document: 'house', shape: KeptMixRecord },
  keptSeating: { document: 'house', shape: KeptSeatingRecord },
} as const;

export type RecordKind = keyof typeof RECORD_KINDS;
export const DOCUMENT_KINDS = ['template', 'cue', 'shelf', 'house'] as const;
export type DocumentKind = (typeof DOCUMENT_KINDS)[number];
export type RecordFields<K extends RecordKind> = InstanceType<(typeof RECORD_KINDS)[K]['shape']>;
/** A record as it travels: its fields, its id and the version they belong to. */
export type Stored<K extends RecordKind> = RecordFields<K> & { id: string; version: number };

/** Fields by which a record is unique among its kind; `naturalId` makes its id from them. */
export const UNIQUE: Partial<Record<RecordKind, readonly string[]>> = {
  positionMix: ['trackId', 'positionId'],
  snapshot: ['slot'],
  aim: ['trackId'],
  seat: ['trackId'],
  tempo: ['tick'],
  metre: ['tick'],
  signature: ['tick'],
  part: ['trackId'],
  shelfMark: ['instrumentId'],
  preference: ['lineUpId', 'phrase', 'contenderId'],
  score: ['criterionId', 'instrumentId'],
  term: ['articulation'],
  entry: ['keymapId', 'articulation'],
  ride: ['keymapId', 'parameter'],
  translation: ['instrumentId', 'articulation', 'term'],
};

/** Fields that a record may be added without, and what they are then. */
export const DEFAULTS: Partial<Record<RecordKind, Readonly<Record<string, unknown>>>> = {
  note: { syllable: '' },
};

/** The records a kind refers to, by field: they must exist in the same document. */
export const REFERENCES: Partial<Record<RecordKind, Record<string, RecordKind>>> = {
  positionMix: { trackId: 'track' },
  eqBand: { trackId: 'track' },
  aim: { trackId: 'track' },
  seat: { trackId: 'track' },
  contender: { lineUpId: 'lineUp' },
  preference: { lineUpId: 'lineUp', contenderId: 'contender' },
  blindRound: { lineUpId: 'lineUp' },
  score: { criterionId: 'criterion' },
  entry: { keymapId: 'keymap' },
  source: { entryId: 'entry' },
  trigger: { entryId: 'entry' },
  ride: { keymapId: 'keymap' },
  note: { partId: 'part' },
  mark: { partId: 'part' },
  point: { partId: 'part' },
};
