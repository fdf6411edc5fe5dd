import type { InstrumentSummary } from '#api/index.ts';
import type { SoundSettings } from '../../sound/audition.ts';
import { dynamicsName } from '#core/music/index.ts';
import { readDynamics } from '../../app/dynamics-name.ts';
import { GroupTitle } from '../../ui/heading.tsx';
import { controllerPercent } from '../../ui/numbers.ts';
import { Ruler } from '../../ui/ruler.tsx';
import { megabytes } from '../../ui/megabytes.ts';

const LEVEL = -4;

/** Which positions are heard, and how loud and lively: what a press plays, and what is saved with a sound. */
export function SoundSetup({
  instrument,
  settings,
  onChange,
}: {
  instrument: InstrumentSummary;
  settings: SoundSettings;
  onChange: (settings: SoundSettings) => void;
}) {
  const { levels } = settings;
  const toggle = (id: string) => {
    const next = { ...levels };
    if (id in next) delete next[id];
    else next[id] = LEVEL;
    onChange({ ...settings, levels: next });
  };
  return (
    <>
      <GroupTitle>Positions</GroupTitle>
      <div className="flex flex-wrap gap-1.5">
        {instrument.positions.map(({ id, name, bytes }) => (
          <button
            key={id}
            type="button"
            aria-pressed={id in levels}
            title={
              id in levels
                ? `${name} is heard; press to leave it out`
                : `${name} is left out; press to hear it`
            }
            onClick={() => toggle(id)}
            className={`min-h-6 rounded-full border px-2.5 ${id in levels ? 'border-cool bg-cool-tint text-ink' : 'border-rule text-ink-2 hover:border-ink-3'}`}
          >
            {name} <span className="text-xs text-ink-2">{megabytes(bytes)}</span>
          </button>
        ))}
      </div>
      <div className="mt-2 grid grid-cols-2 gap-4">
        <Ruler
          compact
          label="Dynamics"
          value={settings.dynamics}
          low={0}
          high={127}
          rest={84}
          step={4}
          format={dynamicsName}
          parse={readDynamics}
          help="How loud a pressed technique is played: it crosses the recorded layers. Costs nothing."
          onChange={(dynamics) => onChange({ ...settings, dynamics: Math.round(dynamics) })}
        />
        <Ruler
          compact
          label="Vibrato"
          value={settings.vibrato}
          low={0}
          high={127}
          rest={70}
          step={4}
          format={(v) => String(Math.round((v / 127) * 100))}
          parse={controllerPercent}
          unit="%"
          help="How much vibrato a pressed technique is played with, where it was recorded with and without. Costs nothing."
          onChange={(vibrato) => onChange({ ...settings, vibrato: Math.round(vibrato) })}
        />
      </div>
    </>
  );
}
