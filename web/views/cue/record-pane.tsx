import { useEffect } from 'react';
import { Trash2 } from 'lucide-react';
import { toast } from 'sonner';
import { recordOrStop } from '../../sound/commands.ts';
import { keepLastPhrase, useLastPhrase } from '../../sound/last-phrase.ts';
import { measureLatency, useLatency } from '../../sound/latency.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import {
  CLICK_DB,
  LATENCY_MS,
  MOST_LEAD_BARS,
  setRecording,
  useRecordingSettings,
} from '../../sound/recording-settings.ts';
import { useItem, useDocuments, useList, type Item } from '../../state/documents.ts';
import { playedOf, putTake, removeTakes, takesOf } from '../../state/takes.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle } from '../../ui/heading.tsx';
import { Ruler } from '../../ui/ruler.tsx';
import { stepOn, switchStepEntry, useStepEntry } from './step-entry.ts';

const CLICKS = [
  { value: 'never', text: 'never' },
  { value: 'recording', text: 'while recording' },
  { value: 'always', text: 'whenever it plays' },
];
const LEADS = Array.from({ length: MOST_LEAD_BARS + 1 }, (_, bars) => ({
  value: String(bars),
  text: bars === 0 ? 'none' : bars === 1 ? '1 bar' : `${bars} bars`,
}));
const WAYS = [
  { value: 'beside', text: 'stays' },
  { value: 'instead', text: 'gives way' },
];
const GRIDS = [
  { value: '0', text: 'as played' },
  { value: '480', text: 'to 1/8' },
  { value: '320', text: 'to 1/8 triplets' },
  { value: '240', text: 'to 1/16' },
  { value: '160', text: 'to 1/16 triplets' },
  { value: '120', text: 'to 1/32' },
];

/** How hands are recorded on a track, what they played last, and the takes there are. */
export function RecordPane({ track, mayEdit }: { track: Item<'track'> | undefined; mayEdit: boolean }) {
  const recording = usePerformance((state) => state.recording);
  const recorded = usePerformance((state) => state.recorded);
  if (!track) return <p className="text-ink-2">Choose a track to record on.</p>;
  return (
    <>
      <h2 className="font-serif text-xl font-semibold">Recording</h2>
      <p className="mb-2 text-sm text-ink-2">
        What hands play on {track.name}: keys, pedal and whatever is ridden. Articulations become marks.
      </p>
      <div className="flex items-center gap-2">
        <Button
          look={recording ? 'loss' : 'main'}
          disabled={!mayEdit}
          title="Records from the playhead, or over the loop (key w)"
          onClick={() => void recordOrStop()}
        >
          {recording ? 'End recording' : 'Record'}
        </Button>
        <span role="status" className="text-sm text-ink-2">
          {recording && `${recorded} ${recorded === 1 ? 'note' : 'notes'} so far`}
        </span>
      </div>
      <LastPhrase track={track} mayEdit={mayEdit} />
      <Settings disabled={recording} />
      <StepEntry mayEdit={mayEdit} />
      <Takes track={track} mayEdit={mayEdit} />
    </>
  );
}

/** What was played while nothing was recorded is not lost. */
function LastPhrase({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  const { trackId, notes } = useLastPhrase();
  if (trackId !== track.id || notes === 0) return null;
  return (
    <Button
      className="mt-2"
      disabled={!mayEdit}
      title="Writes what was played without being recorded: where it was played to the cue, else from the playhead on."
      onClick={() => {
        const kept = keepLastPhrase();
        if (kept === 0) toast('There was nothing to keep.');
      }}
    >
      Keep what was played last: {notes} {notes === 1 ? 'note' : 'notes'}
    </Button>
  );
}

function Settings({ disabled }: { disabled: boolean }) {
  const settings = useRecordingSettings();
  const { measuring, taps, told } = useLatency();
  return (
    <>
      <GroupTitle>How</GroupTitle>
      <div className="space-y-1.5">
        <Choice
          label="Click"
          value={settings.click}
          options={CLICKS}
          onChange={(event) => setRecording({ click: event.target.value as typeof settings.click })}
        />
        <Ruler
          label="Its level"
          value={settings.clickDb}
          low={CLICK_DB.low}
          high={CLICK_DB.high}
          rest={-14}
          step={1}
          unit="dB"
          help="How loud the click is. It is heard here alone and in no bounce."
          disabled={settings.click === 'never'}
          onChange={(clickDb) => setRecording({ clickDb: Math.round(clickDb * 10) / 10 })}
        />
        <Choice
          label="Count-in"
          value={String(settings.leadBars)}
          options={LEADS}
          disabled={disabled}
          onChange={(event) => setRecording({ leadBars: Number(event.target.value) })}
        />
        <Choice
          label="What is there"
          value={settings.replaces ? 'instead' : 'beside'}
          options={WAYS}
          disabled={disabled}
          onChange={(event) => setRecording({ replaces: event.target.value === 'instead' })}
        />
        <Choice
          label="Notes are written"
          value={String(settings.gridTicks)}
          options={GRIDS}
          disabled={disabled}
          onChange={(event) => setRecording({ gridTicks: Number(event.target.value) })}
        />
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={settings.within}
            disabled={disabled}
            onChange={(event) => setRecording({ within: event.target.checked })}
          />
          Only within the loop
        </label>
        <Ruler
          label="Taken off as late"
          value={settings.latencyMs}
          low={LATENCY_MS.low}
          high={LATENCY_MS.high}
          rest={0}
          step={1}
          unit="ms"
          help="How late keyboard and hands are on this machine, beside what the browser tells of its own. What is recorded is moved earlier by so much."
          onChange={(latencyMs) => setRecording({ latencyMs: Math.round(latencyMs) })}
        />
        <Button
          pressed={measuring}
          disabled={disabled}
          title="Plays clicks: strike any key with each of them."
          onClick={() => void measureLatency()}
        >
          {measuring ? `Strike a key with each click (${taps})` : 'Measure it'}
        </Button>
        {told && (
          <p role="status" className="text-xs text-ink-2">
            {told}
          </p>
        )}
      </div>
    </>
  );
}

function StepEntry({ mayEdit }: { mayEdit: boolean }) {
  const on = useStepEntry((state) => state.on);
  useEffect(() => () => switchStepEntry(false), []);
  return (
    <>
      <GroupTitle>Note by note</GroupTitle>
      <div className="flex flex-wrap gap-1">
        <Button
          pressed={on}
          disabled={!mayEdit}
          title="While nothing plays, every key writes a note at the playhead, as long as a step of the grid; keys held together become a chord."
          onClick={() => switchStepEntry(!on)}
        >
          Keys write
        </Button>
        <Button disabled={!on} title="Goes on by a step of the grid." onClick={stepOn}>
          Rest
        </Button>
      </div>
    </>
  );
}

/** Takes of a loop: one may be put into the part, or as much of it as lies within the loop that is set now. */
function Takes({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  const takes = takesOf(useList('take'), track.id);
  const cue = useItem(
    'cue',
    useDocuments((state) => state.cueId),
  );
  if (takes.length === 0) return null;
  const span = cue && { fromTick: cue.loopStartTick, toTick: cue.loopEndTick };
  return (
    <>
      <GroupTitle>Takes</GroupTitle>
      <ul aria-label="Takes" className="space-y-1">
        {takes.map((take) => {
          const notes = playedOf(take)?.notes.length ?? 0;
          return (
            <li key={take.id} className="flex items-center gap-1 text-sm">
              <span className="min-w-0 flex-1 truncate">
                {take.name}{' '}
                <span className="text-ink-3">
                  · {notes} {notes === 1 ? 'note' : 'notes'}
                </span>
              </span>
              <Button
                className="py-0.5"
                disabled={!mayEdit}
                aria-label={`Use ${take.name}`}
                title="Puts it in the place of what is there."
                onClick={() => putTake(take)}
              >
                Use
              </Button>
              <Button
                className="py-0.5"
                disabled={!mayEdit}
                aria-label={`Use ${take.name} within the loop`}
                title="Puts as much of it as lies within the loop in the place of what is there: set the loop over a bar to take that bar from it."
                onClick={() => {
                  if (!putTake(take, span)) toast('The loop lies beside this take.');
                }}
              >
                In loop
              </Button>
              <Button
                look="icon"
                disabled={!mayEdit}
                aria-label={`Remove ${take.name}`}
                title="Takes it out of the list; what is in the part stays."
                onClick={() => removeTakes([take])}
              >
                <Trash2 size={13} aria-hidden />
              </Button>
            </li>
          );
        })}
      </ul>
      {takes.length > 1 && (
        <Button look="quiet" className="mt-1 py-0.5" disabled={!mayEdit} onClick={() => removeTakes(takes)}>
          Remove all takes
        </Button>
      )}
    </>
  );
}
