import { Validator, type Schema } from '@cfworker/json-schema';
import type { Vocabulary } from '../catalogue/index.ts';
import {
  PARAMETER_IDS,
  PLAIN_TOUCH,
  plainRide,
  plainSource,
  plainTrigger,
  SHORT_DYNAMICS,
  SOURCE_PARTS,
  TRIGGER_KINDS,
  type Entry,
  type Keymap,
  type ParameterId,
  type Ride,
  type TouchRules,
} from '../keymap/index.ts';
import {
  articulationOf,
  MOST_LINES,
  MOST_TEXT,
  quoted,
  type FileRemark,
  type ReadKeymap,
} from './keymap-file.ts';

const whole = (minimum: number, maximum: number) => ({ type: 'integer' as const, minimum, maximum });

/** What a keymap is as JSON (JSON Schema, draft 2020-12). Keys, channels and programs count from 0. */
export const KEYMAP_SCHEMA: Schema = {
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  $id: 'farlo-keymap-1',
  title: 'Keymap',
  type: 'object',
  required: ['format', 'name', 'entries'],
  properties: {
    format: { const: 'farlo-keymap-1' },
    name: { type: 'string', maxLength: 120 },
    initial: { type: 'string', maxLength: 60 },
    rides: {
      type: 'array',
      maxItems: PARAMETER_IDS.length,
      items: {
        type: 'object',
        required: ['parameter'],
        properties: {
          parameter: { enum: [...PARAMETER_IDS] },
          controller: whole(0, 127),
          curve: { type: 'number', minimum: -1, maximum: 1 },
          low: whole(0, 127),
          high: whole(0, 127),
          rest: whole(0, 127),
          follows: { enum: ['', ...PARAMETER_IDS] },
        },
        additionalProperties: false,
      },
    },
    touch: {
      type: 'object',
      properties: {
        longVelocityDb: { type: 'number', minimum: 0, maximum: 40 },
        hardAttackFrom: whole(0, 127),
        slideBelow: whole(0, 127),
        bowFrom: whole(0, 127),
        shortDynamics: { enum: [...SHORT_DYNAMICS] },
      },
      additionalProperties: false,
    },
    entries: {
      type: 'array',
      maxItems: 500,
      items: {
        type: 'object',
        required: ['articulation'],
        properties: {
          articulation: { type: 'string', minLength: 1, maxLength: 60 },
          morph: whole(0, 127),
          triggers: {
            type: 'array',
            maxItems: 64,
            items: {
              type: 'object',
              required: ['kind'],
              properties: {
                kind: { enum: [...TRIGGER_KINDS] },
                set: whole(0, 15),
                number: whole(0, 16383),
                low: whole(0, 127),
                high: whole(0, 127),
                hold: { enum: ['latching', 'held'] },
              },
              additionalProperties: false,
            },
          },
          sources: {
            type: 'array',
            maxItems: 64,
            items: {
              type: 'object',
              required: ['articulation'],
              properties: {
                articulation: { type: 'string', minLength: 1, maxLength: 60 },
                levelDb: { type: 'number', minimum: -60, maximum: 12 },
                velocityLow: whole(1, 127),
                velocityHigh: whole(1, 127),
                part: { enum: [...SOURCE_PARTS] },
                morphAt: whole(0, 127),
              },
              additionalProperties: false,
            },
          },
        },
        additionalProperties: false,
      },
    },
  },
  additionalProperties: false,
};

const validator = new Validator(KEYMAP_SCHEMA, '2020-12', false);

/** Writes a keymap as JSON that fits `KEYMAP_SCHEMA`. */
export function writeKeymapJson({ name, initial, entries, rides = [], touch }: Keymap): string {
  const file = {
    format: 'farlo-keymap-1',
    name,
    initial,
    rides: rides.map(({ id: _id, ...ride }) => ride),
    ...(touch ? { touch } : {}),
    entries: entries.map(({ articulation, triggers, sources, morph }) => ({
      articulation,
      ...(morph === undefined ? {} : { morph }),
      triggers: triggers.map(({ id: _id, ...trigger }) => trigger),
      sources: sources.map(({ id: _id, ...source }) => source),
    })),
  };
  return `${JSON.stringify(file, null, 2)}\n`;
}

interface JsonKeymap {
  name: string;
  initial?: string;
  rides?: unknown;
  touch?: unknown;
  entries: (Pick<Entry, 'articulation'> & Partial<Entry>)[];
}

/** Reads such a file. What does not fit the schema is told with its place; entries that fit are taken all the same. */
export function readKeymapJson(text: string, vocabulary?: Vocabulary): ReadKeymap {
  const remarks: FileRemark[] = [];
  const tell = (sentence: string, leftOut = true) => remarks.push({ line: 0, sentence, leftOut });
  const empty: ReadKeymap = {
    keymap: { id: '', name: '', initial: '', entries: [] },
    remarks,
    middleC: undefined,
  };
  let json: JsonKeymap;
  try {
    if (text.length > MOST_TEXT) throw new Error('it is longer than two million characters');
    json = JSON.parse(text) as JsonKeymap;
  } catch (error) {
    tell(`This is no JSON that can be read: ${(error as Error).message.slice(0, 120)}.`);
    return empty;
  }
  if (!isKeymapFile(json)) {
    tell('This JSON is no keymap: its “format” must be “farlo-keymap-1”, and it needs a list of “entries”.');
    return empty;
  }
  let ids = 0;
  const taken = new Map<string, Entry>();
  json.entries.slice(0, MOST_LINES).forEach((raw, i) => {
    const where = `Entry ${i + 1}`;
    const { valid, errors } = validator.validate({ format: 'farlo-keymap-1', name: '', entries: [raw] });
    if (!valid) {
      const deepest = errors[errors.length - 1];
      const place = deepest.instanceLocation.replace('#/entries/0', '').replaceAll('/', ' ').trim();
      tell(`${where}${place === '' ? '' : `, ${place}`}: ${deepest.error.slice(0, 160)} It was left out.`);
      return;
    }
    const found = articulationOf(raw.articulation, vocabulary);
    if (!found.known) {
      tell(
        `${where}: ${quoted(raw.articulation)} is no articulation of the house; add the word to the vocabulary to take it in.`,
      );
      return;
    }
    if (taken.has(found.id)) {
      tell(`${where}: ${found.id} stands there twice; the first was taken.`);
      return;
    }
    if (found.guessed) tell(`${where}: ${quoted(raw.articulation)} was taken as ${found.id}.`, false);
    const { triggers = [], sources = [], morph } = raw;
    taken.set(found.id, {
      id: `read ${ids++}`,
      articulation: found.id,
      ...(morph === undefined ? {} : { morph }),
      triggers: triggers.map((trigger) => ({ ...plainTrigger(), ...trigger, id: `read ${ids++}` })),
      sources: sources.map((source) => ({
        ...plainSource(source.articulation),
        ...source,
        id: `read ${ids++}`,
      })),
    });
  });
  const controllers = controllersIn(json, tell);
  const { initial = '' } = json;
  const name = typeof json.name === 'string' ? json.name.slice(0, 120) : '';
  return {
    keymap: {
      id: '',
      name,
      initial: taken.has(initial) ? initial : '',
      entries: [...taken.values()],
      ...controllers,
    },
    remarks,
    middleC: undefined,
  };
}

/** What a file says about controllers and velocity, where it fits the schema. */
function controllersIn(json: JsonKeymap, tell: (sentence: string) => void): Pick<Keymap, 'rides' | 'touch'> {
  const { rides = [], touch } = json;
  const fits = (part: object, name: string) => {
    const { valid, errors } = validator.validate({
      format: 'farlo-keymap-1',
      name: '',
      entries: [],
      ...part,
    });
    if (!valid) tell(`${name}: ${errors[errors.length - 1].error.slice(0, 160)} They were left out.`);
    return valid;
  };
  const byParameter = new Map<ParameterId, Ride>();
  if (fits({ rides }, 'Controllers'))
    for (const ride of rides as Ride[])
      byParameter.set(ride.parameter, {
        ...plainRide(ride.parameter),
        ...ride,
        id: `ride ${ride.parameter}`,
      });
  return {
    ...(json.rides === undefined ? {} : { rides: [...byParameter.values()] }),
    ...(touch !== undefined && fits({ touch }, 'What velocity does')
      ? { touch: { ...PLAIN_TOUCH, ...(touch as Partial<TouchRules>) } }
      : {}),
  };
}

function isKeymapFile(json: unknown): json is JsonKeymap {
  if (typeof json !== 'object' || json === null) return false;
  const { format, entries } = json as { format?: unknown; entries?: unknown };
  return format === 'farlo-keymap-1' && Array.isArray(entries);
}
