import { X } from 'lucide-react';
import { useEffect } from 'react';
import { Link, useParams } from 'react-router';
import type { InstrumentSummary } from '#api/index.ts';
import { compareKeymaps, firstArticulation } from '#core/keymap/index.ts';
import { PLAIN_POSITION } from '#core/mixing/index.ts';
import { HistoryPane } from '../../app/history-pane.tsx';
import { usePageTitle } from '../../app/page-title.ts';
import { selectTrack, takeUp } from '../../sound/hands.ts';
import { knowInstrument, useInstruments, wantOnce } from '../../sound/instruments.ts';
import { useDocuments, useList } from '../../state/documents.ts';
import {
  keymapById,
  keymapOfInstrument,
  summaryOf,
  useVocabulary,
  type HouseKeymap,
} from '../../state/keymaps.ts';
import { useLibraries } from '../../state/libraries.ts';
import { useMayEdit } from '../../state/session.ts';
import { Button } from '../../ui/button.tsx';
import { Notice } from '../../ui/heading.tsx';
import { Pane, Panes } from '../../ui/panes.tsx';
import { AlongPanel } from './along-panel.tsx';
import { ComparePanel } from './compare-panel.tsx';
import { ControllersPanel } from './controllers-panel.tsx';
import { CoverageView } from './coverage.tsx';
import { EntryPane } from './entry-pane.tsx';
import { EntryTable } from './entry-table.tsx';
import { KeymapChoice } from './keymap-choice.tsx';
import { addEntry, change, dropVariant, keepVariant } from './keymap-edits.ts';
import { KeymapKeyboard } from './keymap-keyboard.tsx';
import { choose, useKeymaps, type Beside } from './keymaps-state.ts';
import { ReadingLine } from './live-reading.tsx';
import { useClashes, useLookedAt, type LookedAt } from './looked-at.ts';
import { RulesPanel } from './rules-panel.tsx';
import { TranslationPanel } from './translation-panel.tsx';
import { VocabularyView } from './vocabulary.tsx';

/** Articulations to triggers: keymaps of instruments and tracks, coverage, the house vocabulary. */
export function KeymapsView() {
  const { kind } = useParams();
  const looked = useLookedAt();
  const surface = kind === 'coverage' || kind === 'vocabulary' ? kind : 'keymap';
  usePageTitle('Keymaps', surface === 'keymap' ? (looked?.track?.name ?? looked?.instrument.name) : surface);
  return (
    <div className="flex h-full min-h-0 flex-col">
      <div className="flex flex-wrap items-center gap-2.5 border-b border-rule px-3 py-2">
        <h1 className="font-serif text-xl font-semibold">Keymaps</h1>
        <Surfaces surface={surface} looked={looked} />
        {surface === 'keymap' && looked && <Actions />}
      </div>
      <div className="min-h-0 flex-1">
        {surface === 'coverage' ? (
          <CoverageView />
        ) : surface === 'vocabulary' ? (
          <VocabularyView />
        ) : (
          <Panes id="keymaps" names={['Border of the list', 'Border of the side pane']}>
            <Pane id="choice" size={184} least={120}>
              <KeymapChoice />
            </Pane>
            <Pane id="map" least={380}>
              {looked ? <KeymapSurface looked={looked} /> : <Nothing />}
            </Pane>
            <Pane id="beside" size={288} least={220}>
              <aside aria-label="Beside the keymap" className="h-full overflow-auto p-3.5">
                {looked && <BesidePane looked={looked} />}
              </aside>
            </Pane>
          </Panes>
        )}
      </div>
    </div>
  );
}

function Surfaces({ surface, looked }: { surface: string; looked: LookedAt | undefined }) {
  const home = looked?.track
    ? `/keymaps/track/${looked.track.id}`
    : looked
      ? `/keymaps/instrument/${looked.instrument.id}`
      : '/keymaps';
  const links = [
    { name: 'Keymap', to: home, is: 'keymap' },
    { name: 'Coverage', to: '/keymaps/coverage', is: 'coverage' },
    { name: 'Vocabulary', to: '/keymaps/vocabulary', is: 'vocabulary' },
  ];
  return (
    <nav aria-label="Surfaces of Keymaps" className="flex gap-1">
      {links.map(({ name, to, is }) => (
        <Link
          key={is}
          to={to}
          aria-current={surface === is ? 'page' : undefined}
          className={`min-h-6 rounded-md border px-2.5 py-1 text-sm ${surface === is ? 'border-cool bg-cool-tint' : 'border-transparent text-ink-2 hover:text-ink'}`}
        >
          {name}
        </Link>
      ))}
    </nav>
  );
}

const BESIDE: readonly { is: Beside; text: string; title: string }[] = [
  { is: 'rules', text: 'Keys by rule', title: 'Give keyswitches by rules that can be read and changed' },
  {
    is: 'compare',
    text: 'Compare and copy',
    title: 'Hold another keymap against this one; take over or copy',
  },
  { is: 'controllers', text: 'Controllers', title: 'Which controller moves what, and what velocity does' },
  { is: 'words', text: 'Words', title: 'What the instrument’s own articulations are in the house’s words' },
  { is: 'along', text: 'Take along', title: 'On paper or as a file, and in from a file' },
  { is: 'history', text: 'History', title: 'Who changed what of keymaps and words, and the way back' },
];

function Actions() {
  const beside = useKeymaps((state) => state.beside);
  return (
    <div className="flex flex-1 flex-wrap justify-end gap-1.5">
      {BESIDE.map(({ is, text, title }) => (
        <Button
          key={is}
          pressed={beside === is}
          title={title}
          onClick={() => useKeymaps.setState({ beside: beside === is ? 'entry' : is })}
        >
          {text}
        </Button>
      ))}
    </div>
  );
}

function Nothing() {
  const libraries = useLibraries((state) => state.libraries);
  return (
    <p className="p-8 text-ink-2" aria-live="polite">
      {libraries === undefined
        ? 'Looking …'
        : libraries.length === 0
          ? 'A keymap belongs to an instrument. Bring sounds in on the Shelf first.'
          : 'Choose a track or an instrument at the left to see what selects its articulations.'}
    </p>
  );
}

/** Plays what is looked at: the track, or the instrument by its keymap. */
function usePlayed({ instrument, track }: LookedAt): void {
  const { id, name } = instrument;
  const trackId = track?.id;
  // Texts, so that a fresh list of what the studio owns is no reason to let go of what is played.
  const positionIds = instrument.positions.map((position) => position.id).join('|');
  const first = firstArticulation(instrument.articulations.map((one) => one.id));
  useEffect(() => {
    if (trackId !== undefined) {
      takeUp(undefined);
      selectTrack(trackId);
      return undefined;
    }
    void knowInstrument(id).then(
      (known) => known && wantOnce(known, new Set(known.articulations.map((one) => one.id))),
    );
    const positions = Object.fromEntries(
      positionIds.split('|').map((position) => [position, { ...PLAIN_POSITION, levelDb: -6 }]),
    );
    takeUp(
      {
        instrumentId: id,
        name,
        byKeymap: true,
        mix: { gainDb: 0, pan: 0, muted: false, hallSendDb: -60, positions },
      },
      first,
    );
    return () => takeUp(undefined);
  }, [id, name, trackId, positionIds, first]);
}

function KeymapSurface({ looked }: { looked: LookedAt }) {
  const { house, instrument, track } = looked;
  const mayEdit = useMayEdit();
  const middleC = useList('template')[0]?.middleC ?? 4;
  const clashes = useClashes(looked);
  usePlayed(looked);
  const shared = { house, instrument, clashes, middleC, mayEdit };
  return (
    <div className="flex h-full min-h-0 flex-col">
      <Whose looked={looked} mayEdit={mayEdit} />
      <div className="border-b border-rule px-3 pt-2 pb-1">
        <KeymapKeyboard {...shared} />
      </div>
      <div className="min-h-0 flex-1 overflow-auto" tabIndex={0} aria-label="Articulations, scrollable">
        <EntryTable {...shared} />
        <AddEntry looked={looked} mayEdit={mayEdit} />
      </div>
      <LoadTrouble id={instrument.id} />
      <ReadingLine instrument={instrument} middleC={middleC} />
      {track === undefined && <span className="sr-only">The keyboard plays {instrument.name}.</span>}
    </div>
  );
}

function LoadTrouble({ id }: { id: string }) {
  const error = useInstruments((state) => state.errors[id]);
  return error ? (
    <div role="alert" className="px-3">
      <Notice tone="warm">{error}</Notice>
    </div>
  ) : null;
}

/** Whose keymap it is, and whether the track keeps its own. */
function Whose({ looked: { house, instrument, track }, mayEdit }: { looked: LookedAt; mayEdit: boolean }) {
  const records = useDocuments((state) => state.records);
  const base = house.variantOf === '' ? undefined : keymapById(records, house.variantOf);
  const differences = base ? compareKeymaps(house.keymap, base.keymap).length : 0;
  const users = useList('track').filter(({ instrumentId, keymapId }) =>
    house.trackId === ''
      ? instrumentId !== null &&
        house.instrumentIds.includes(instrumentId) &&
        (keymapId === null || keymapId === house.keymap.id)
      : keymapId === house.keymap.id,
  ).length;
  return (
    <div className="border-b border-rule-soft px-3 py-1.5">
      <div className="flex flex-wrap items-baseline gap-x-2 gap-y-1">
        <h2 className="font-serif text-[17px] font-semibold">{track?.name ?? instrument.name}</h2>
        <span className="min-w-0 flex-1 text-ink-2">
          {house.trackId !== ''
            ? `an own keymap${base ? `, ${differences === 0 ? 'like' : `${differences} ${differences === 1 ? 'difference' : 'differences'} from`} ${base.keymap.name}` : ''}`
            : house.kept
              ? `the house’s keymap “${house.keymap.name}”, ${users === 0 ? 'no track plays' : users === 1 ? 'one track plays' : `${users} tracks play`} by it`
              : 'the keys its maker suggests; the first change makes it the house’s'}
        </span>
        {track &&
          (house.trackId === '' ? (
            <Button
              disabled={!mayEdit}
              title="What is changed then holds for this track alone; the difference is shown"
              onClick={() => keepVariant(house, track)}
            >
              Keep an own one
            </Button>
          ) : (
            <>
              <Button onClick={() => useKeymaps.setState({ beside: 'compare' })}>Show the difference</Button>
              <Button disabled={!mayEdit} onClick={() => dropVariant(house, track)}>
                Play by the house’s
              </Button>
            </>
          ))}
      </div>
      {house.trackId === '' && <MadeFor house={house} instrument={instrument} mayEdit={mayEdit} />}
    </div>
  );
}

/** Which instruments a keymap of the house is made for, beside the one it is seen over. */
function MadeFor({
  house,
  instrument,
  mayEdit,
}: {
  house: HouseKeymap;
  instrument: InstrumentSummary;
  mayEdit: boolean;
}) {
  const libraries = useLibraries((state) => state.libraries);
  const records = useDocuments((state) => state.records);
  const set = (ids: readonly string[], label: string) =>
    change(label, house, [
      { kind: 'keymap', id: house.keymap.id, op: 'update', fields: { instruments: ids.join('|') } },
    ]);
  const others = (libraries ?? []).flatMap((library) =>
    library.instruments
      .filter(({ id, family }) => family === instrument.family && !house.instrumentIds.includes(id))
      // What has a keymap of its own keeps it; copying is for that.
      .filter((one) => !keymapOfInstrument(records, one).kept)
      .map((one) => ({ ...one, library: library.name })),
  );
  const also = house.instrumentIds.filter((id) => id !== instrument.id);
  return (
    <div className="flex flex-wrap items-center gap-x-2 text-ink-2">
      {also.map((id) => (
        <span key={id} className="inline-flex items-center gap-0.5">
          also for {summaryOf(id)?.name ?? 'an instrument that is gone'}
          <button
            type="button"
            disabled={!mayEdit}
            aria-label={`No longer for ${summaryOf(id)?.name ?? 'it'}`}
            title="It is played by its maker’s keys again"
            className="grid size-6 place-items-center text-ink-3 hover:text-warm"
            onClick={() =>
              set(
                house.instrumentIds.filter((one) => one !== id),
                'Keymap for fewer instruments',
              )
            }
          >
            <X size={13} aria-hidden />
          </button>
        </span>
      ))}
      {others.length > 0 && (
        <select
          aria-label="Use it for another instrument too"
          className="min-h-6 max-w-[260px] rounded-md border border-transparent bg-transparent text-sm text-cool hover:border-rule"
          disabled={!mayEdit || house.instrumentIds.length >= MOST_INSTRUMENTS}
          value=""
          onChange={(event) =>
            event.target.value &&
            set([...house.instrumentIds, event.target.value], 'Keymap for another instrument')
          }
        >
          <option value="">Use it for another instrument too …</option>
          {others.map(({ id, name, library }) => (
            <option key={id} value={id}>
              {name} · {library}
            </option>
          ))}
        </select>
      )}
    </div>
  );
}

/** As many ids as a keymap can keep. */
const MOST_INSTRUMENTS = 50;

/** Articulations that are not in the keymap yet: the instrument's own first. */
function AddEntry({ looked: { house, instrument }, mayEdit }: { looked: LookedAt; mayEdit: boolean }) {
  const vocabulary = useVocabulary();
  const has = new Set(house.keymap.entries.map(({ articulation }) => articulation));
  const own = instrument.articulations.map(({ id }) => id).filter((id) => !has.has(id));
  const others = vocabulary.terms.map(({ id }) => id).filter((id) => !has.has(id) && !own.includes(id));
  const add = (id: string) => {
    const made = addEntry(house, id);
    if (change(`Add ${vocabulary.term(id).name}`, house, made.edits)) choose(made.id);
  };
  const option = (id: string) => (
    <option key={id} value={id}>
      {vocabulary.term(id).name}
    </option>
  );
  const addAll = () =>
    change(
      `Add ${own.length} articulations`,
      house,
      own.flatMap((id, i) => addEntry(house, id, i).edits),
    );
  return (
    <div className="flex flex-wrap items-center gap-2 p-2">
      {own.length > 0 && (
        <p className="px-1 text-ink-2">
          {own.length === 1
            ? `One more articulation of ${instrument.name} is not in the keymap.`
            : `${own.length} more articulations of ${instrument.name} are not in the keymap.`}{' '}
          <button
            type="button"
            disabled={!mayEdit}
            className="min-h-6 text-cool underline disabled:opacity-50"
            onClick={addAll}
          >
            {own.length === 1 ? 'Add it' : 'Add all of them'}
          </button>
        </p>
      )}
      <select
        aria-label="Add an articulation"
        className="min-h-6 rounded-md border border-transparent bg-transparent text-sm text-cool hover:border-rule"
        disabled={!mayEdit}
        value=""
        onChange={(event) => event.target.value && add(event.target.value)}
      >
        <option value="">Add an articulation …</option>
        {own.length > 0 && <optgroup label={`Of ${instrument.name}`}>{own.map(option)}</optgroup>}
        <optgroup label="Played by a stand-in">{others.map(option)}</optgroup>
      </select>
    </div>
  );
}

function BesidePane({ looked }: { looked: LookedAt }) {
  const { beside, entryId } = useKeymaps();
  const houseId = useDocuments((state) => state.houseId);
  const mayEdit = useMayEdit();
  const middleC = useList('template')[0]?.middleC ?? 4;
  const clashes = useClashes(looked);
  const { house, instrument } = looked;
  if (beside === 'rules') return <RulesPanel {...{ looked, middleC, mayEdit }} />;
  if (beside === 'compare') return <ComparePanel {...{ looked, middleC, mayEdit }} />;
  if (beside === 'controllers') return <ControllersPanel {...{ looked, mayEdit }} />;
  if (beside === 'words') return <TranslationPanel {...{ looked, mayEdit }} />;
  if (beside === 'history')
    return (
      <>
        <h2 className="mb-1 font-serif text-xl font-semibold">History</h2>
        <HistoryPane kind="house" id={houseId} />
      </>
    );
  if (beside === 'along') return <AlongPanel {...{ looked, middleC, mayEdit }} />;
  const entry = house.keymap.entries.find(({ id }) => id === entryId);
  return <EntryPane {...{ house, entry, instrument, clashes, middleC, mayEdit }} />;
}
