import { useEffect, useRef, useState } from 'react';
import { Star } from 'lucide-react';
import { toast } from 'sonner';
import {
  VERDICTS,
  type ArticulationSummary,
  type InstrumentSummary,
  type LibrarySummary,
  type Verdict,
} from '#api/index.ts';
import { InstrumentNote } from '../../app/instrument-note.tsx';
import {
  audition,
  mixOfSettings,
  plainSettings,
  stopAudition,
  type SoundSettings,
} from '../../sound/audition.ts';
import {
  bytesNeededFor,
  loadInstrument,
  openInstrument,
  useInstruments,
  unloadInstrument,
} from '../../sound/instruments.ts';
import { mixTaken, rideTaken, takeUp } from '../../sound/hands.ts';
import { CONTROLLER } from '#core/music/index.ts';
import { useMayEdit } from '../../state/session.ts';
import { changeMark, offOf, useMark } from '../../state/shelf.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { megabytes } from '../../ui/megabytes.ts';
import { FamilyTag } from '../../ui/tag.tsx';
import { AddToLineUp } from './add-to-line-up.tsx';
import { ExportButton } from './export-button.tsx';
import { SaveSound } from './save-sound.tsx';
import { useShelf } from './shelf-state.ts';
import { SoundSetup } from './sound-setup.tsx';
import { TechniqueList } from './technique-list.tsx';

/** One instrument: its techniques, each played on press, what it holds and costs, and what the studio thinks of it. */
export function InstrumentPane({
  instrument,
  library,
}: {
  instrument: InstrumentSummary;
  library: LibrarySummary;
}) {
  const load = useInstruments((state) => state.loads[instrument.id]);
  const error = useInstruments((state) => state.errors[instrument.id]);
  const mark = useMark(instrument.id);
  const [settings, setSettings] = useState<SoundSettings>(() => plainSettings(instrument.positions));
  const [sounding, setSounding] = useState<string>();
  const [last, setLast] = useState<string>();
  const ended = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => {
    // Its description is fetched on choosing it, so that a press needs to wait for the sound alone.
    void openInstrument(instrument.id).catch(() => undefined);
    takeUp(
      { instrumentId: instrument.id, name: instrument.name, mix: mixOfSettings(settings) },
      instrument.articulations[0]?.id,
    );
    return () => {
      clearTimeout(ended.current);
      stopAudition();
      takeUp(undefined);
    };
    // Settings reach the sound by `change`; a new instrument begins anew.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [instrument.id]);

  const change = (next: SoundSettings) => {
    setSettings(next);
    // What sounds follows at once, without starting again.
    if (next.levels !== settings.levels) mixTaken(mixOfSettings(next));
    if (sounding === undefined) return;
    if (next.dynamics !== settings.dynamics) rideTaken(CONTROLLER.dynamics, next.dynamics);
    if (next.vibrato !== settings.vibrato) rideTaken(CONTROLLER.vibrato, next.vibrato);
  };
  const hear = (articulation: ArticulationSummary) => {
    clearTimeout(ended.current);
    setSounding(articulation.id);
    setLast(articulation.id);
    audition(instrument.id, articulation.id, settings)
      .then((seconds) => {
        ended.current = setTimeout(() => setSounding(undefined), seconds * 1000);
      })
      .catch((failure: Error) => {
        setSounding(undefined);
        toast.error(failure.message);
      });
  };
  const off = offOf(mark);
  return (
    <>
      <Heading instrument={instrument} library={library} />
      {error && <Notice tone="warm">{error}</Notice>}
      <div className="mt-2 mb-1">
        <AddToLineUp instrumentId={instrument.id} articulation="" name={instrument.name} />
      </div>
      <TechniqueList instrument={instrument} load={load} off={off} sounding={sounding} onHear={hear} />
      <MemoryButtons instrument={instrument} />
      <SoundSetup instrument={instrument} settings={settings} onChange={change} />
      <div className="mt-2 flex flex-wrap gap-2">
        <SaveSound
          instrument={instrument}
          articulation={last ?? instrument.articulations[0]?.id ?? 'long'}
          settings={settings}
        />
        <ExportButton instrument={instrument} />
      </div>
      <OwnWord instrument={instrument} />
    </>
  );
}

function Heading({ instrument, library }: { instrument: InstrumentSummary; library: LibrarySummary }) {
  const mark = useMark(instrument.id);
  const mayEdit = useMayEdit();
  const starred = mark?.starred ?? false;
  return (
    <>
      <div className="flex items-center gap-2">
        <FamilyTag family={instrument.family} />
        <h2 className="min-w-0 flex-1 truncate font-serif text-xl font-semibold">{instrument.name}</h2>
        <button
          type="button"
          disabled={!mayEdit}
          aria-pressed={starred}
          aria-label={starred ? 'Take the star away' : 'Star this instrument'}
          onClick={() =>
            changeMark(instrument.id, starred ? 'Take a star away' : 'Star an instrument', {
              starred: !starred,
            })
          }
          className={`grid size-7 place-items-center disabled:opacity-50 ${starred ? 'text-cool' : 'text-ink-3 hover:text-ink'}`}
        >
          <Star size={16} aria-hidden fill={starred ? 'currentColor' : 'none'} />
        </button>
      </div>
      <p className="text-ink-3">
        <button
          type="button"
          className="min-h-6 text-cool underline"
          onClick={() => useShelf.setState({ selected: { kind: 'library', id: library.id } })}
        >
          {library.name}
        </button>{' '}
        · {instrument.players === 1 ? 'one player' : `${instrument.players} players`}
        {instrument.tags.length > 0 ? ` · ${instrument.tags.join(', ')}` : ''}
      </p>
    </>
  );
}

function MemoryButtons({ instrument }: { instrument: InstrumentSummary }) {
  const load = useInstruments((state) => state.loads[instrument.id]);
  const mark = useMark(instrument.id);
  const off = offOf(mark);
  const open = load?.instrument.articulations.filter((one) => !load.wanted.has(one.id) && !off.has(one.id));
  const need = load && open ? bytesNeededFor(load.instrument, open) : instrument.bytes;
  const share = load ? Math.round((load.loadedBytes / Math.max(1, load.totalBytes)) * 100) : 0;
  return (
    <div className="mt-2">
      <p className="text-ink-2" role="status">
        {load
          ? load.complete
            ? `${megabytes(load.totalBytes)} of ${megabytes(instrument.bytes)} in memory`
            : `${share} % of ${megabytes(load.totalBytes)} arrived`
          : `Nothing in memory; everything takes ${megabytes(instrument.bytes)}`}
      </p>
      <div className="mt-1.5 flex flex-wrap gap-2">
        <Button look="main" disabled={open?.length === 0} onClick={() => void loadInstrument(instrument.id)}>
          Load all{need > 0 ? `: +${megabytes(need)}` : ''}
        </Button>
        {load && <Button onClick={() => unloadInstrument(instrument.id)}>Unload</Button>}
      </div>
    </div>
  );
}

/** Verdict and note, the studio's own. */
function OwnWord({ instrument }: { instrument: InstrumentSummary }) {
  const mark = useMark(instrument.id);
  const mayEdit = useMayEdit();
  return (
    <>
      <GroupTitle>What we think of it</GroupTitle>
      <Choice
        label="Verdict"
        disabled={!mayEdit}
        value={mark?.verdict ?? ''}
        onChange={(event) =>
          changeMark(instrument.id, 'Give a verdict', { verdict: event.target.value as Verdict })
        }
        options={VERDICTS.map((value) => ({ value, text: value === '' ? 'none yet' : value }))}
      />
      <InstrumentNote instrumentId={instrument.id} />
    </>
  );
}
