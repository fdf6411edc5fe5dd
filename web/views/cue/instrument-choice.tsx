import { toast } from 'sonner';
import { type Instrument } from '#core/catalogue/index.ts';
import { initialKeymap } from '#core/keymap/index.ts';
import { request } from '../../state/api-client.ts';
import type { Edit } from '../../state/diff.ts';
import { edit, useList, type Item } from '../../state/documents.ts';
import { useLibraries } from '../../state/libraries.ts';
import { Choice } from '../../ui/field.tsx';
import { Notice } from '../../ui/heading.tsx';

/** Which instrument a track plays; choosing another brings its positions and a first keymap. */
export function InstrumentChoice({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  const { libraries } = useLibraries();
  const triggers = useList('trigger');
  const positions = useList('positionMix');
  const options = (libraries ?? []).flatMap((library) =>
    library.instruments.map((instrument) => ({
      value: instrument.id,
      text: `${instrument.name} · ${library.name}`,
    })),
  );
  const choose = async (instrumentId: string) => {
    try {
      const instrument = await request<Instrument>('GET', `/instruments/${instrumentId}`);
      const edits: Edit[] = [
        {
          kind: 'track',
          id: track.id,
          op: 'update',
          fields: {
            instrumentId,
            family: instrument.family,
            articulation:
              instrument.articulations.find((a) => a.id !== 'connected')?.id ??
              instrument.articulations[0].id,
          },
        },
        ...triggers
          .filter((t) => t.trackId === track.id)
          .map((t): Edit => ({ kind: 'trigger', id: t.id, op: 'remove' })),
        ...positions
          .filter((p) => p.trackId === track.id)
          .map((p): Edit => ({ kind: 'positionMix', id: p.id, op: 'remove' })),
        ...initialKeymap(instrument).map((t): Edit => ({
          kind: 'trigger',
          id: crypto.randomUUID(),
          op: 'add',
          fields: { ...t, trackId: track.id },
        })),
        ...instrument.positions.map((p): Edit => ({
          kind: 'positionMix',
          id: crypto.randomUUID(),
          op: 'add',
          fields: {
            trackId: track.id,
            positionId: p.id,
            levelDb: -6,
            pan: 0,
            width: 1,
            delayMs: 0,
            muted: false,
            inverted: false,
          },
        })),
      ];
      edit('Choose the instrument', edits);
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  const known = options.some((option) => option.value === track.instrumentId);
  const missing = track.instrumentId !== null && libraries !== undefined && !known;
  return (
    <>
      <Choice
        label="Instrument"
        hideLabel
        className="mt-1 w-full"
        disabled={!mayEdit}
        value={known ? (track.instrumentId ?? '') : ''}
        onChange={(event) => void choose(event.target.value)}
        options={[
          ...(known ? [] : [{ value: '', text: missing ? 'being recorded …' : 'Choose an instrument …' }]),
          ...options,
        ]}
      />
      {missing && (
        <Notice tone="straw">
          The instrument of this track is not here yet. It appears by itself when its recording is finished.
        </Notice>
      )}
    </>
  );
}
