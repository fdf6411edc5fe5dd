import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { VERDICTS, type Verdict } from '#api/index.ts';
import { articulationTerm } from '#core/catalogue/index.ts';
import { mixOfLevels, plainLevels } from '#core/listen/index.ts';
import { pitchName } from '#core/music/index.ts';
import { wantArticulation } from '../../sound/instruments.ts';
import { InstrumentNote } from '../../app/instrument-note.tsx';
import { takeUp } from '../../sound/hands.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { useRenderings } from '../../sound/renderings-state.ts';
import { useHandSounds } from '../../sound/sounding.ts';
import { endTrial, startTrial, useTrialNews } from '../../sound/trial.ts';
import { edit, useDocuments, useItem, useList, type Item } from '../../state/documents.ts';
import { changeContender, fillGap } from '../../state/listen.ts';
import { useMayEdit } from '../../state/session.ts';
import { changeMark, useMark } from '../../state/shelf.ts';
import { useLibraries } from '../../state/libraries.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { FamilyTag } from '../../ui/tag.tsx';
import type { Contender } from './contenders.ts';
import { useOffset } from './line-up-table.tsx';
import { Remarks } from './remarks.tsx';
import { techniqueOf, type PhraseRow } from './rows.ts';
import { ScoreCard } from './score-card.tsx';

/** The chosen contender: what hands play, its score card, verdict, remarks, and trying it in the cue. */
export function VerdictPane({
  contender,
  column,
  row,
}: {
  contender: Contender;
  column: number;
  row: PhraseRow | undefined;
}) {
  const mayEdit = useMayEdit();
  const { summary, instrument, instrumentId } = contender;
  const suits = row?.cells[column]?.articulation;
  const plays = contender.articulation || suits || (instrument && techniqueOf(contender, 'long')?.id) || '';
  useTakenUp(contender, plays);
  const failed = useRenderings((state) => {
    const cell = state.states[row?.cells[column]?.name ?? ''];
    return cell?.kind === 'failed' ? cell.message : undefined;
  });
  return (
    <>
      <div className="flex items-center gap-2">
        {summary && <FamilyTag family={summary.family} />}
        <h2 className="min-w-0 flex-1 truncate font-serif text-xl font-semibold">
          {contender.letter} · {summary?.name ?? 'gone'}
        </h2>
      </div>
      <p className="truncate text-ink-3">{contender.library?.name}</p>
      {(contender.trouble ?? failed) && <Notice tone="warm">{contender.trouble ?? failed}</Notice>}
      {summary && (
        <div className="mt-1.5">
          <Choice
            label="Plays"
            className="max-w-48"
            disabled={!mayEdit}
            value={contender.articulation}
            onChange={(event) => changeContender(contender.id, event.target.value)}
            options={[
              { value: '', text: 'whatever fits the phrase' },
              ...summary.articulations.map((one) => ({ value: one.id, text: one.name })),
            ]}
          />
        </div>
      )}
      <Hands />
      <KeepOffset contender={contender} column={column} row={row} />
      <TryInCue contender={contender} articulation={plays} />
      <GroupTitle>Score card</GroupTitle>
      <ScoreCard instrumentId={instrumentId} />
      <OwnVerdict instrumentId={instrumentId} />
      <Remarks instrumentId={instrumentId} row={row} column={column} />
    </>
  );
}

/** Hands play the chosen contender, with the technique of the chosen phrase. */
function useTakenUp({ instrument, instrumentId, summary }: Contender, articulation: string): void {
  const known = instrument !== undefined;
  const name = summary?.name ?? '';
  useEffect(() => {
    if (!instrument || articulation === '') return;
    takeUp({ instrumentId, name, mix: mixOfLevels(plainLevels(instrument)) }, articulation);
    void wantArticulation(instrumentId, articulation).catch(() => undefined);
    // The description stays the same object while it is known.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [known, instrumentId, articulation]);
  useEffect(() => () => takeUp(undefined), []);
}

/** The layer and the take that sound while hands play. */
function Hands() {
  const sounds = useHandSounds();
  const middleC = useList('template')[0]?.middleC ?? 4;
  const articulation = usePerformance((state) => state.articulation);
  return (
    <div className="mt-2 min-h-[42px] border-y border-rule-soft py-1 text-ink-2" aria-live="off">
      {sounds.length === 0 ? (
        <span className="text-ink-3">
          Play it with the strip below: the layer and take that sound are shown here.
        </span>
      ) : (
        sounds.slice(0, 4).map((one, i) => (
          <div key={`${one.key} ${i}`} className="flex justify-between">
            <span>
              <b className="text-ink">{pitchName(one.key, middleC)}</b>{' '}
              <i className="font-serif">{articulationTerm(articulation).name}</i>
            </span>
            <span>
              {one.layers > 1 ? `layer ${one.layer} of ${one.layers}, ` : ''}take {one.take} of {one.takes}
            </span>
          </div>
        ))
      )}
    </div>
  );
}

/** Keeps the loudness offset as the trim of the tracks that play this instrument. */
function KeepOffset({
  contender,
  column,
  row,
}: {
  contender: Contender;
  column: number;
  row: PhraseRow | undefined;
}) {
  const mayEdit = useMayEdit();
  const offset = useOffset(row?.cells[column]?.name, row?.cells.find((cell) => cell !== undefined)?.name);
  const tracks = useList('track').filter((track) => track.instrumentId === contender.instrumentId);
  if (offset === undefined || Math.abs(offset) < 0.05 || tracks.length === 0) return null;
  const gainDb = Math.round(Math.max(-60, Math.min(12, offset)) * 10) / 10;
  const text = `${gainDb < 0 ? '−' : '+'}${Math.abs(gainDb).toFixed(1)} dB`;
  return (
    <Button
      className="mt-2 w-full"
      disabled={!mayEdit}
      title={`Sets the level of ${tracks.map((track) => track.name).join(', ')} to what makes it as loud as the first contender here`}
      onClick={() => {
        edit(
          'Keep the offset as trim',
          tracks.map((track) => ({ kind: 'track', id: track.id, op: 'update', fields: { gainDb } })),
        );
        toast(`${tracks.map((track) => track.name).join(', ')}: level ${text}.`);
      }}
    >
      Keep {text} as trim of {tracks.length === 1 ? tracks[0].name : `${tracks.length} tracks`}
    </Button>
  );
}

/** Lets the contender take a track's place in the open cue. */
function TryInCue({ contender, articulation }: { contender: Contender; articulation: string }) {
  const trial = usePerformance((state) => state.trial);
  const current = usePerformance((state) => state.trackId);
  const { preparing, standIns } = useTrialNews();
  const tracks = useList('track');
  const cue = useItem(
    'cue',
    useDocuments((state) => state.cueId),
  );
  const [chosen, setChosen] = useState<string>();
  const alike = tracks.filter((track) => track.family === contender.summary?.family);
  const trackId =
    trial?.trackId ?? chosen ?? (alike.find((one) => one.id === current) ?? alike[0] ?? tracks[0])?.id;
  if (!cue || tracks.length === 0 || !trackId || articulation === '') return null;
  const trying = trial?.instrumentId === contender.instrumentId;
  return (
    <>
      <GroupTitle>In the cue</GroupTitle>
      <div className="flex items-center gap-2">
        <Choice
          label="Track"
          hideLabel
          className="max-w-32"
          disabled={trial !== undefined}
          value={trackId}
          onChange={(event) => setChosen(event.target.value)}
          options={tracks.map(({ id, name }) => ({ value: id, text: name }))}
        />
        {trying ? (
          <Button className="flex-1" onClick={endTrial}>
            Back to its own sound
          </Button>
        ) : (
          <Button
            look="main"
            className="min-w-0 flex-1"
            disabled={preparing || contender.trouble !== undefined}
            title={`Takes the track’s place in ${cue.name}, as loud, until you go back; the cue may be playing`}
            onClick={() =>
              void startTrial(trackId, contender.instrumentId, contender.articulation).catch((error: Error) =>
                toast.error(error.message),
              )
            }
          >
            {preparing ? 'Matching levels …' : 'Try in cue'}
          </Button>
        )}
      </div>
      {trying && standIns.length > 0 && (
        <Notice tone="straw">
          {standIns.map((sentence) => (
            <div key={sentence}>{sentence}</div>
          ))}
        </Notice>
      )}
    </>
  );
}

function OwnVerdict({ instrumentId }: { instrumentId: string }) {
  const mark = useMark(instrumentId);
  const mayEdit = useMayEdit();
  const gaps = useList('gap');
  const libraries = useLibraries((state) => state.libraries) ?? [];
  const filled = gaps.filter((gap) => gap.filledBy === instrumentId);
  const open = gaps.filter((gap) => gap.filledBy === '');
  const others = libraries.flatMap((library) =>
    library.instruments
      .filter((one) => one.id !== instrumentId)
      .map((one) => ({ value: one.id, text: `${one.name} · ${library.name}` })),
  );
  const give = (verdict: Verdict) => changeMark(instrumentId, 'Give a verdict', { verdict });
  return (
    <>
      <div role="group" aria-label="Verdict" className="mt-2 flex gap-1.5">
        {VERDICTS.filter((verdict) => verdict !== '').map((verdict) => (
          <Button
            key={verdict}
            pressed={mark?.verdict === verdict}
            disabled={!mayEdit}
            className="flex-1 font-serif italic"
            onClick={() => give(mark?.verdict === verdict ? '' : verdict)}
          >
            {verdict}
          </Button>
        ))}
      </div>
      <div className="mt-2 flex flex-col gap-1">
        <Choice
          label="Fills the gap"
          className="max-w-40"
          disabled={!mayEdit || (open.length === 0 && filled.length === 0)}
          value={filled[0]?.id ?? ''}
          onChange={(event) => {
            if (filled[0] && event.target.value !== filled[0].id) fillGap(filled[0].id, '');
            if (event.target.value) fillGap(event.target.value, instrumentId);
          }}
          options={[
            { value: '', text: open.length === 0 && filled.length === 0 ? 'no gaps noted' : 'none' },
            ...[...filled, ...open].map((gap: Item<'gap'>) => ({ value: gap.id, text: gap.name })),
          ]}
        />
        <Choice
          label="Replaces"
          className="max-w-40"
          disabled={!mayEdit}
          value={mark?.replaces ?? ''}
          onChange={(event) =>
            changeMark(instrumentId, 'Say what it replaces', { replaces: event.target.value })
          }
          options={[{ value: '', text: 'nothing' }, ...others]}
        />
      </div>
      <InstrumentNote instrumentId={instrumentId} />
    </>
  );
}
