import { lazy, Suspense, useEffect, useState } from 'react';
import { ChevronDown, ChevronUp } from 'lucide-react';
import type { Keymap, ParameterId } from '#core/keymap/index.ts';
import { useDocuments, useItem, useList } from '../state/documents.ts';
import { responsesOf, useVocabulary, voicingOf } from '../state/keymaps.ts';
import { playWithComputerKeys } from '../sound/computer-keys.ts';
import { useInstruments } from '../sound/instruments.ts';
import { connectMidi, sendFrom, STAND_IN, useMidi } from '../sound/midi.ts';
import { selectArticulation } from '../sound/hands.ts';
import { usePerformance } from '../sound/performance-state.ts';
import { rangeOfWord } from '../sound/playing-by.ts';
import { Button } from '../ui/button.tsx';
import { Keyboard } from '../ui/keyboard.tsx';
import { controllerPercent } from '../ui/numbers.ts';
import { Ruler } from '../ui/ruler.tsx';
import { dynamicsName } from '#core/music/index.ts';
import { readDynamics } from './dynamics-name.ts';
import { isStripOpen, rememberStrip } from './strip-fold.ts';
import { useInstrumentKeymap, useTrackKeymap } from './use-keymap.ts';

const StandInPanel = lazy(async () => ({
  default: (await import('./stand-in-panel.tsx')).StandInPanel,
}));

const SCREEN = { id: 'screen', name: 'Screen' };

/** Keyboard, ridden controllers and input source; it plays the current sound from every view. */
export function PlayingStrip() {
  const [open, setOpen] = useState(isStripOpen);
  const [standIn, setStandIn] = useState(false);
  const [letters, setLetters] = useState(false);
  const fold = () => {
    rememberStrip(!open);
    setOpen(!open);
  };
  useEffect(
    () =>
      playWithComputerKeys(
        () => letters,
        () => 60,
      ),
    [letters],
  );
  const track = useItem(
    'track',
    usePerformance((state) => state.trackId),
  );
  const articulation = usePerformance((state) => state.articulation);
  const taken = usePerformance((state) => state.taken);
  const trial = usePerformance((state) => state.trial);
  const tried = trial?.trackId === track?.id ? trial?.instrumentId : undefined;
  const instrumentId = taken?.instrumentId ?? tried ?? track?.instrumentId ?? '';
  const load = useInstruments((state) => state.loads[instrumentId]);
  const error = useInstruments((state) => state.errors[instrumentId]);
  const name = useVocabulary().term(articulation).name;
  return (
    <section aria-label="Playing strip" className="col-span-2 border-t border-rule bg-sheet">
      <div className={`flex ${open ? 'h-[92px]' : 'h-[30px]'} items-stretch`}>
        <div className="w-[262px] shrink-0 border-r border-rule px-3.5 py-1.5">
          <div className="flex items-center justify-between">
            <span className="truncate font-serif font-semibold">
              {taken?.name ?? track?.name ?? 'No track'} · {name}
            </span>
            <button
              type="button"
              onClick={fold}
              aria-expanded={open}
              aria-label={open ? 'Fold the playing strip away' : 'Unfold the playing strip'}
              className="grid size-6 place-items-center text-ink-2"
            >
              {open ? <ChevronDown size={15} /> : <ChevronUp size={15} />}
            </button>
          </div>
          {open && <RiddenControllers />}
        </div>
        {open && (
          <>
            <div className="min-w-0 flex-1 px-2 pt-1">
              {error ? (
                <p role="alert" className="p-3 text-warm">
                  {error}
                </p>
              ) : load || taken ? (
                <PlayedKeyboard />
              ) : (
                <p className="p-4 text-ink-2">
                  {track
                    ? track.instrumentId
                      ? 'The instrument is on its way …'
                      : 'This track has no instrument yet; choose one in its side pane.'
                    : 'Choose a track to play it.'}
                </p>
              )}
            </div>
            <InputChoice letters={letters} onLetters={setLetters} standIn={standIn} onStandIn={setStandIn} />
          </>
        )}
      </div>
      {standIn && (
        <Suspense>
          <StandInPanel onClose={() => setStandIn(false)} />
        </Suspense>
      )}
    </section>
  );
}

/** Hook: the keymap that hands play by; undefined for a sound that is played as it is. */
function usePlayedKeymap(): Keymap | undefined {
  const track = useItem(
    'track',
    usePerformance((state) => state.trackId),
  );
  const taken = usePerformance((state) => state.taken);
  const ofTrack = useTrackKeymap(taken ? undefined : track);
  const ofTaken = useInstrumentKeymap(taken?.byKeymap ? taken.instrumentId : undefined);
  return (ofTrack ?? ofTaken)?.keymap;
}

function RiddenControllers() {
  const ridden = usePerformance((state) => state.ridden);
  // The strip rides what the keymap has learned, as any fader would.
  const responses = responsesOf(usePlayedKeymap());
  const send = (id: ParameterId) => (value: number) =>
    sendFrom(SCREEN, [0xb0, responses.ride(id).controller, Math.round(value)]);
  const valueOf = (id: ParameterId) => ridden[responses.ride(id).controller] ?? responses.ride(id).rest;
  const dynamics = valueOf('dynamics');
  const vibrato = valueOf('vibrato');
  return (
    <div className="grid grid-cols-2 gap-4">
      <Ruler
        compact
        label="Dynamics"
        value={dynamics}
        low={0}
        high={127}
        rest={responses.ride('dynamics').rest}
        step={4}
        format={dynamicsName}
        parse={readDynamics}
        help="Crosses the recorded layers of long notes, soft to loud (controller 1). Costs nothing."
        onChange={send('dynamics')}
      />
      <Ruler
        compact
        label="Vibrato"
        value={vibrato}
        low={0}
        high={127}
        rest={responses.ride('vibrato').rest}
        step={4}
        format={(v) => String(Math.round((v / 127) * 100))}
        parse={controllerPercent}
        unit="%"
        help="Crosses from notes played without vibrato to notes with it (controller 77). Costs nothing."
        onChange={send('vibrato')}
      />
    </div>
  );
}

function PlayedKeyboard() {
  const track = useItem(
    'track',
    usePerformance((state) => state.trackId),
  );
  const articulation = usePerformance((state) => state.articulation);
  const held = usePerformance((state) => state.held);
  const taken = usePerformance((state) => state.taken);
  const trial = usePerformance((state) => state.trial);
  const tried = trial?.trackId === track?.id ? trial?.instrumentId : undefined;
  const load = useInstruments(
    (state) => state.loads[taken?.instrumentId ?? tried ?? track?.instrumentId ?? ''],
  );
  const keymap = usePlayedKeymap();
  const vocabulary = useVocabulary();
  const switches = (keymap?.entries ?? []).flatMap((entry) =>
    entry.triggers.flatMap(({ kind, number }) => (kind === 'key' ? [{ key: number, entry }] : [])),
  );
  const template = useList('template')[0];
  const voicing = useDocuments(({ records }) => load && voicingOf(records, keymap, load.instrument));
  return (
    <Keyboard
      low={21}
      high={108}
      middleC={template?.middleC ?? 4}
      held={held}
      range={load && voicing && rangeOfWord(load.instrument, voicing, articulation)}
      tabs={switches.map(({ key, entry }) => ({
        key,
        text: vocabulary.term(entry.articulation).tab,
        name: vocabulary.term(entry.articulation).name,
        active: entry.articulation === articulation,
      }))}
      onPress={(key, velocity, atMs) => sendFrom(SCREEN, [0x90, key, velocity], atMs)}
      onRelease={(key, atMs) => sendFrom(SCREEN, [0x80, key, 0], atMs)}
      onTab={(key) => {
        const found = switches.find((one) => one.key === key);
        if (found) selectArticulation(found.entry.articulation);
      }}
    />
  );
}

function InputChoice({
  letters,
  onLetters,
  standIn,
  onStandIn,
}: {
  letters: boolean;
  onLetters: (on: boolean) => void;
  standIn: boolean;
  onStandIn: (on: boolean) => void;
}) {
  const { sources, trouble, asked } = useMidi();
  const keyboards = sources.filter((source) => source.id !== STAND_IN.id);
  return (
    <div
      className="flex w-[172px] shrink-0 flex-col justify-center gap-0.5 border-l border-rule px-3"
      aria-label="Input"
    >
      <Button
        pressed={letters}
        className="justify-start py-0"
        title="The letter row A … ; plays from middle C upwards, the row above the black keys"
        onClick={() => onLetters(!letters)}
      >
        Computer keys
      </Button>
      <Button
        pressed={standIn}
        className="justify-start py-0"
        title="A simulated MIDI keyboard with wheel, faders and pedal"
        onClick={() => onStandIn(!standIn)}
      >
        Stand-in keyboard
      </Button>
      {keyboards.length > 0 ? (
        <span
          className="truncate text-xs text-ink-2"
          title={keyboards.map((source) => source.name).join(', ')}
        >
          ● {keyboards.map((source) => source.name).join(', ')}
        </span>
      ) : (
        <button
          type="button"
          className="min-h-6 truncate text-left text-xs text-cool underline"
          title={trouble ?? 'Ask the browser for connected keyboards'}
          onClick={() => void connectMidi()}
        >
          {trouble ? 'No MIDI access: why?' : asked ? 'No keyboard found; look again' : 'Use a MIDI keyboard'}
        </button>
      )}
    </div>
  );
}
