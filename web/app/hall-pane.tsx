import { HALL_LIMITS, HARBOUR_HALL } from '#core/rooms/index.ts';
import { beginGesture, edit, endGesture, useDocuments, useItem } from '../state/documents.ts';
import { HallChoice } from './hall-choice.tsx';
import { decibels } from '../ui/decibels.ts';
import { Choice } from '../ui/field.tsx';
import { GroupTitle } from '../ui/heading.tsx';
import { A_FREQUENCY, hertzText, parseHertz } from '../ui/hertz.ts';
import { Ruler } from '../ui/ruler.tsx';

interface Setting {
  field:
    'hallSize' | 'hallDecaySeconds' | 'hallDamping' | 'hallPreDelayMs' | 'hallLowCutHz' | 'hallHighCutHz';
  label: string;
  low: number;
  high: number;
  rest: number;
  step: number;
  unit?: string;
  /** Set in octaves, shown in hertz. */
  octaves?: boolean;
  format?: (value: number) => string;
  help: string;
}

const [two, whole] = [(value: number) => value.toFixed(2), (value: number) => String(Math.round(value))];
const SETTINGS: readonly Setting[] = [
  {
    field: 'hallSize',
    label: 'Size',
    low: HALL_LIMITS.size[0],
    high: HALL_LIMITS.size[1],
    rest: 1,
    step: 0.05,
    unit: '×',
    format: two,
    help: 'How long its walls are: first reflections come later and more apart in a larger hall.',
  },
  {
    field: 'hallDecaySeconds',
    label: 'Decay',
    low: HALL_LIMITS.decaySeconds[0],
    high: HALL_LIMITS.decaySeconds[1],
    rest: HARBOUR_HALL.decaySeconds,
    step: 0.1,
    unit: 's',
    format: two,
    help: 'Time in which the tail falls by 60 dB. Longer tails cost computing time and memory.',
  },
  {
    field: 'hallDamping',
    label: 'Damping',
    low: HALL_LIMITS.damping[0],
    high: HALL_LIMITS.damping[1],
    rest: 0.5,
    step: 0.05,
    format: two,
    help: 'How soon treble dies away: 0 late, 1 at once.',
  },
  {
    field: 'hallPreDelayMs',
    label: 'Pre-delay',
    low: HALL_LIMITS.preDelayMs[0],
    high: HALL_LIMITS.preDelayMs[1],
    rest: 0,
    step: 5,
    unit: 'ms',
    format: whole,
    help: 'Silence before the hall answers: it keeps what is near clear.',
  },
  {
    field: 'hallLowCutHz',
    label: 'Low cut',
    low: HALL_LIMITS.lowCutHz[0],
    high: HALL_LIMITS.lowCutHz[1],
    rest: HALL_LIMITS.lowCutHz[0],
    step: 0.25,
    octaves: true,
    help: 'What lies below does not come out of the hall; 20 Hz is everything.',
  },
  {
    field: 'hallHighCutHz',
    label: 'High cut',
    low: HALL_LIMITS.highCutHz[0],
    high: HALL_LIMITS.highCutHz[1],
    rest: HALL_LIMITS.highCutHz[1],
    step: 0.25,
    octaves: true,
    help: 'What lies above does not come out of the hall; 20,000 Hz is everything.',
  },
];
const hertzOf = ({ low, high }: Setting, octaves: number) =>
  Math.min(high, Number((low * 2 ** octaves).toPrecision(3)));
const octavesOf = ({ low }: Setting, text: string) => {
  const hertz = parseHertz(text);
  return hertz === undefined ? A_FREQUENCY : Math.log2(hertz / low);
};

/** The shared hall, and how keys are named: settings of the whole template. */
export function HallPane({ mayEdit }: { mayEdit: boolean }) {
  const template = useItem(
    'template',
    useDocuments((state) => state.templateId),
  );
  if (!template) return null;
  const change = (fields: Record<string, unknown>, merge: string) =>
    edit('Shared hall', [{ kind: 'template', id: template.id, op: 'update', fields }], merge);
  const ruler = (setting: Setting) => (
    <Ruler
      key={setting.field}
      compact
      label={setting.label}
      value={setting.octaves ? Math.log2(template[setting.field] / setting.low) : template[setting.field]}
      low={setting.octaves ? 0 : setting.low}
      high={setting.octaves ? Math.log2(setting.high / setting.low) : setting.high}
      rest={setting.octaves ? Math.log2(setting.rest / setting.low) : setting.rest}
      step={setting.step}
      unit={setting.octaves ? hertzText(template[setting.field]).split(' ')[1] : setting.unit}
      format={setting.octaves ? (value) => hertzText(hertzOf(setting, value)).split(' ')[0] : setting.format}
      parse={setting.octaves ? (text) => octavesOf(setting, text) : undefined}
      disabled={!mayEdit}
      help={setting.help}
      onChange={(value) =>
        change({ [setting.field]: setting.octaves ? hertzOf(setting, value) : value }, setting.field)
      }
      onGesture={(phase) => (phase === 'begin' ? beginGesture('Shared hall') : endGesture())}
    />
  );
  return (
    <>
      <GroupTitle>Shared hall, all tracks</GroupTitle>
      <Ruler
        label="Early"
        value={template.hallEarlyDb}
        low={-60}
        high={12}
        rest={0}
        step={1}
        unit="dB"
        format={decibels}
        disabled={!mayEdit}
        help="First reflections of the shared hall: they tell the distance."
        onChange={(hallEarlyDb) => change({ hallEarlyDb }, 'early')}
      />
      <Ruler
        label="Tail"
        value={template.hallTailDb}
        low={-60}
        high={12}
        rest={0}
        step={1}
        unit="dB"
        format={decibels}
        disabled={!mayEdit}
        help="The decaying tail of the shared hall: it tells the size."
        onChange={(hallTailDb) => change({ hallTailDb }, 'tail')}
      />
      <details className="text-sm">
        <summary className="min-h-6 cursor-pointer pt-1 text-ink-2">The hall itself</summary>
        <HallChoice
          hall={template.hall}
          mayEdit={mayEdit}
          onChoose={(hall, hallDecaySeconds) => change({ hall, hallDecaySeconds, hallSize: 1 }, 'hall')}
        />
        {SETTINGS.map(ruler)}
      </details>
      <Choice
        label="Middle C is"
        className="mt-1"
        disabled={!mayEdit}
        value={String(template.middleC)}
        onChange={(event) => change({ middleC: Number(event.target.value) }, 'middle')}
        options={[
          { value: '4', text: 'C4' },
          { value: '3', text: 'C3' },
        ]}
      />
    </>
  );
}
