import { useEffect, useRef, useState } from 'react';
import { Play } from 'lucide-react';
import { toast } from 'sonner';
import type { ArticulationSummary, InstrumentSummary, LibrarySummary } from '#api/index.ts';
import { articulationTerm } from '#core/catalogue/index.ts';
import { audition, stopAudition } from '../../sound/audition.ts';
import { useInstruments, wantInstrument } from '../../sound/instruments.ts';
import { Button } from '../../ui/button.tsx';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { RangeBar } from '../../ui/range-bar.tsx';
import { FamilyTag } from '../../ui/tag.tsx';

/** One instrument: its techniques, each played on press, and what it holds. */
export function InstrumentPane({
  instrument,
  library,
}: {
  instrument: InstrumentSummary;
  library: LibrarySummary | undefined;
}) {
  const load = useInstruments((state) => state.loads[instrument.id]);
  const error = useInstruments((state) => state.errors[instrument.id]);
  const [sounding, setSounding] = useState<string>();
  const ended = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(
    () => () => {
      clearTimeout(ended.current);
      stopAudition();
    },
    [instrument.id],
  );
  const hear = (articulation: ArticulationSummary) => {
    clearTimeout(ended.current);
    setSounding(articulation.id);
    audition(instrument.id, articulation.id)
      .then((seconds) => {
        ended.current = setTimeout(() => setSounding(undefined), seconds * 1000);
      })
      .catch((failure: Error) => {
        setSounding(undefined);
        toast.error(failure.message);
      });
  };
  return (
    <>
      <div className="flex items-center gap-2">
        <FamilyTag family={instrument.family} />
        <h2 className="font-serif text-xl font-semibold">{instrument.name}</h2>
      </div>
      <p className="text-ink-3">
        {library?.name} · {instrument.players === 1 ? 'one player' : `${instrument.players} players`}
      </p>
      <GroupTitle>Techniques</GroupTitle>
      <ul>
        {instrument.articulations.map((articulation) => (
          <li key={articulation.id}>
            <button
              type="button"
              onClick={() => hear(articulation)}
              aria-label={`Hear ${articulation.name}`}
              className={`grid w-full grid-cols-[16px_minmax(0,1fr)_auto] items-center gap-x-2 border-b border-rule-soft py-1 text-left hover:bg-ground ${sounding === articulation.id ? 'bg-cool-tint' : ''}`}
            >
              <Play
                size={12}
                aria-hidden
                className={sounding === articulation.id ? 'text-cool' : 'text-ink-3'}
              />
              <span className="truncate font-serif italic">{articulationTerm(articulation.id).name}</span>
              <RangeBar low={articulation.low} high={articulation.high} width={92} />
              <span className="col-start-2 text-xs text-ink-3">
                {articulation.layers} × {articulation.takes}
                {articulation.transitions > 0 ? ` · ${articulation.transitions} recorded moves` : ''}
              </span>
              <span className="text-right text-xs text-ink-2">
                {(articulation.bytes / 1e6).toFixed(1)} MB
              </span>
            </button>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-xs text-ink-3">
        layers × takes · range · memory, all positions; shared recordings count in each
      </p>
      <GroupTitle>Positions</GroupTitle>
      <p className="text-ink-2">{instrument.positions.map((position) => position.name).join(', ')}</p>
      <GroupTitle>In memory</GroupTitle>
      {error ? (
        <Notice tone="warm">{error}</Notice>
      ) : load ? (
        <p className="text-ink-2" role="status">
          {(load.bytes / 1e6).toFixed(1)} MB held
          {load.complete
            ? ''
            : `, ${Math.round((load.loadedBytes / Math.max(1, load.totalBytes)) * 100)} % arrived`}
        </p>
      ) : (
        <Button onClick={() => void wantInstrument(instrument.id)}>
          Load all: {(instrument.bytes / 1e6).toFixed(0)} MB
        </Button>
      )}
      {library && library.unsupported.length > 0 && (
        <>
          <GroupTitle>Left out at import</GroupTitle>
          <ul className="text-xs text-ink-2">
            {library.unsupported.map((item) => (
              <li key={item.opcode + item.reason} className="py-0.5">
                <strong>{item.opcode}</strong>: {item.reason} ({item.count} ×, first in {item.place})
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}
