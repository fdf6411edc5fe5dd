import { randomUUID } from 'node:crypto';
import { conventionalSeat } from '#core/mixing/index.ts';
import { PLAIN_TEMPLATE, type RecordFields, type RecordKind } from '#api/index.ts';
import { PLAIN_TOUCH } from '#core/keymap/index.ts';
import { CONTROLLER } from '#core/music/index.ts';
import type { Store } from '../store/database.ts';
import { People } from '../store/people.ts';
import { DEMO_CUE } from './cue.ts';
import { DEMO_INSTRUMENTS } from './libraries.ts';
import { NIGHT_CROSSING } from './night-crossing.ts';
import { ORCHESTRA } from './orchestra.ts';
import { DEMO_PEOPLE } from './people.ts';

const STUDIO = 'Saltglass Music';

/** The demo studio with its people, template and first cue; made once. @returns the studio's id */
export async function seedDemo(store: Store): Promise<string> {
  const known = (await store.models.studios.findOne({ where: { name: STUDIO }, raw: true })) as unknown as {
    id: string;
  } | null;
  if (known) return known.id;
  const people = new People(store);
  const studioId = await people.addStudio(STUDIO);
  try {
    await fillStudio(store, people, studioId);
  } catch (error) {
    // Nothing half made: the next start begins anew.
    await store.models.users.destroy({ where: { email: DEMO_PEOPLE.map((person) => person.email) } });
    await store.models.studios.destroy({ where: { id: studioId } });
    throw error;
  }
  return studioId;
}

async function fillStudio(store: Store, people: People, studioId: string): Promise<void> {
  for (const person of DEMO_PEOPLE) await people.addMember(studioId, person);
  const writer = new Writer(store, studioId, randomUUID());
  await writer.template('Ellowick template');
  const violins = await writer.track('Violins I', 'strings', 1, DEMO_INSTRUMENTS.violins, 'long');
  const bells = await writer.track('Lamp bells', 'percussion', 2, DEMO_INSTRUMENTS.bells, 'hit');
  await writer.positions(violins, { close: -5, mid: -60, tree: 0, outriggers: -60, far: -12 });
  await writer.positions(bells, { mix: -12 });
  await seedHouse(store, studioId);
  await seedCue(writer, violins, bells);
  await seedOrchestra(store, studioId);
  await seedListening(store, studioId);
}

/** The studio's own keymap of the violins; the other instruments keep their makers' keys. */
async function seedHouse(store: Store, studioId: string): Promise<void> {
  const { records } = store.models;
  const house = (await records.house.findOne({ where: { studioId }, raw: true })) as unknown as {
    id: string;
  };
  const add = async <K extends RecordKind>(kind: K, fields: RecordFields<K>): Promise<string> => {
    const id = randomUUID();
    await records[kind].create({ ...fields, houseId: house.id, id, version: 1 });
    return id;
  };
  const keymapId = await add('keymap', {
    name: 'Violins I',
    instruments: DEMO_INSTRUMENTS.violins,
    initial: 'long',
    variantOf: '',
    trackId: '',
    ...PLAIN_TOUCH,
  });
  const keys = {
    long: 24,
    connected: 25,
    staccato: 26,
    pizzicato: 27,
    tremolo: 28,
    'off the string': 29,
    accented: 30,
    muted: 31,
    'near bridge': 32,
    swell: 33,
  };
  for (const [place, [articulation, number]] of Object.entries(keys).entries()) {
    const entryId = await add('entry', { keymapId, articulation, place, morph: -1 });
    await add('trigger', {
      entryId,
      kind: 'key',
      alternative: 0,
      number,
      low: 0,
      high: 127,
      hold: articulation === 'swell' ? 'held' : 'latching',
    });
    if (articulation !== 'pizzicato') continue;
    // Plucked, and snapped where it is struck hard.
    const parts = [
      ['pizzicato', 1, 111],
      ['snapped', 112, 127],
    ] as const;
    for (const [at, [sounding, velocityLow, velocityHigh]] of parts.entries())
      await add('source', {
        entryId,
        articulation: sounding,
        place: at,
        levelDb: 0,
        velocityLow,
        velocityHigh,
        part: 'whole',
        morphAt: 0,
      });
  }
}

/** Two line-ups, what the studio lacks, and one verdict. */
async function seedListening(store: Store, studioId: string): Promise<void> {
  const { records } = store.models;
  const shelf = (await records.shelf.findOne({ where: { studioId }, raw: true })) as unknown as {
    id: string;
  };
  const add = async <K extends RecordKind>(kind: K, fields: RecordFields<K>): Promise<string> => {
    const id = randomUUID();
    await records[kind].create({ ...fields, shelfId: shelf.id, id, version: 1 });
    return id;
  };
  const { violins, chamberViolins, lightViolins, soloViolin, soloCello, oboe } = DEMO_INSTRUMENTS;
  const lineUps = {
    'Fast violins': [violins, chamberViolins, lightViolins],
    'Solo line for the keeper': [soloViolin, soloCello, oboe],
  };
  for (const [name, contenders] of Object.entries(lineUps)) {
    const lineUpId = await add('lineUp', { name });
    for (const [place, instrumentId] of contenders.entries())
      await add('contender', { lineUpId, instrumentId, articulation: '', place });
  }
  for (const name of [
    'Low choir that can whisper',
    'Horns for the far shore',
    'A second, smaller violin section',
  ])
    await add('gap', { name, filledBy: '' });
  await add('shelfMark', {
    instrumentId: violins,
    starred: true,
    verdict: 'keep',
    note: 'Carries the big tunes of the ferry.',
    off: '',
    replaces: '',
  });
}

async function seedCue(writer: Writer, violins: string, bells: string): Promise<void> {
  const cueId = randomUUID();
  await writer.head('cue', cueId, {
    name: DEMO_CUE.name,
    endTick: DEMO_CUE.endTick,
    loopStartTick: 0,
    loopEndTick: DEMO_CUE.endTick,
  });
  await writer.add('tempo', { tick: 0, bpm: DEMO_CUE.bpm, ramp: false });
  await writer.add('metre', { tick: 0, numerator: 4, denominator: 4 });
  const violinPart = await writer.add('part', { trackId: violins });
  const bellPart = await writer.add('part', { trackId: bells });
  for (const note of DEMO_CUE.violins.notes) await writer.add('note', { ...note, partId: violinPart });
  for (const note of DEMO_CUE.bells.notes) await writer.add('note', { ...note, partId: bellPart });
  for (const mark of DEMO_CUE.violins.marks) await writer.add('mark', { ...mark, partId: violinPart });
  const curves: [number, [number, number][]][] = [
    [CONTROLLER.dynamics, DEMO_CUE.violins.dynamics],
    [CONTROLLER.vibrato, DEMO_CUE.violins.vibrato],
  ];
  for (const [controller, points] of curves)
    for (const [tick, value] of points)
      await writer.add('point', { partId: violinPart, controller, tick, value });
}

/** The template of the whole orchestra, with a cue that all of it plays. */
async function seedOrchestra(store: Store, studioId: string): Promise<void> {
  const writer = new Writer(store, studioId, randomUUID());
  await writer.template('Ellowick orchestra');
  const tracks = new Map<string, string>();
  for (const [
    place,
    { name, family, instrumentId, articulation, gainDb, hallSendDb, levels },
  ] of ORCHESTRA.entries()) {
    const id = await writer.track(name, family, place + 1, instrumentId, articulation, {
      gainDb,
      hallSendDb,
    });
    await writer.positions(id, levels);
    await writer.add('seat', { trackId: id, ...conventionalSeat('usual', { name, family }) });
    tracks.set(name, id);
  }
  const cueId = randomUUID();
  const { name, endTick, loop, bpm, parts } = NIGHT_CROSSING;
  await writer.head('cue', cueId, { name, endTick, loopStartTick: loop[0], loopEndTick: loop[1] });
  await writer.add('tempo', { tick: 0, bpm, ramp: false });
  await writer.add('metre', { tick: 0, numerator: 4, denominator: 4 });
  for (const [track, { notes, marks, dynamics }] of Object.entries(parts)) {
    const trackId = tracks.get(track);
    if (!trackId) throw new Error(`nobody is called ${track}`);
    const partId = await writer.add('part', { trackId });
    await writer.addAll(
      'note',
      notes.map((note) => ({ ...note, syllable: '', partId })),
    );
    await writer.addAll(
      'mark',
      marks.map((mark) => ({ ...mark, partId })),
    );
    await writer.addAll(
      'point',
      dynamics.map(([tick, value]) => ({ partId, controller: CONTROLLER.dynamics, tick, value })),
    );
  }
}

/** Adds records to one template and one cue of a studio. */
class Writer {
  private cueId = '';
  constructor(
    private readonly store: Store,
    private readonly studioId: string,
    private readonly templateId: string,
  ) {}

  async head<K extends 'template' | 'cue'>(kind: K, id: string, fields: RecordFields<K>): Promise<void> {
    if (kind === 'cue') this.cueId = id;
    const owner = kind === 'cue' ? { templateId: this.templateId } : {};
    await this.store.models.records[kind].create({
      ...fields,
      ...owner,
      id,
      version: 1,
      revision: 0,
      studioId: this.studioId,
    });
  }

  template(name: string): Promise<void> {
    return this.head('template', this.templateId, { ...PLAIN_TEMPLATE, name });
  }

  async add<K extends RecordKind>(kind: K, fields: RecordFields<K>): Promise<string> {
    const [id] = await this.addAll(kind, [fields]);
    return id;
  }

  /** @returns ids in order */
  async addAll<K extends RecordKind>(kind: K, list: readonly RecordFields<K>[]): Promise<string[]> {
    const owner = ['track', 'positionMix', 'seat'].includes(kind)
      ? { templateId: this.templateId }
      : { cueId: this.cueId };
    const rows = list.map((fields) => ({ ...fields, ...owner, id: randomUUID(), version: 1 }));
    await this.store.models.records[kind].bulkCreate(rows as Record<string, unknown>[]);
    return rows.map(({ id }) => id);
  }

  track(
    name: string,
    family: RecordFields<'track'>['family'],
    place: number,
    instrumentId: string,
    articulation: string,
    levels: { gainDb: number; hallSendDb: number } = { gainDb: 0, hallSendDb: -14 },
  ): Promise<string> {
    return this.add('track', {
      name,
      family,
      place,
      instrumentId,
      keymapId: null,
      articulation,
      mode: 'planned',
      pan: 0,
      muted: false,
      ...levels,
    });
  }

  async positions(trackId: string, levels: Record<string, number>): Promise<void> {
    for (const [positionId, levelDb] of Object.entries(levels))
      await this.add('positionMix', {
        trackId,
        positionId,
        levelDb,
        pan: 0,
        width: 1,
        delayMs: 0,
        muted: false,
        inverted: false,
        sendDb: 0,
        stem: '',
      });
  }
}
