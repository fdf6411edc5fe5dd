import { toast } from 'sonner';
import { type Instrument } from '#core/catalogue/index.ts';
import { request } from '../../state/api-client.ts';
import { edit, useDocuments, type Item } from '../../state/documents.ts';
import { useLibraries } from '../../state/libraries.ts';
import { instrumentEdits } from '../../state/track-edits.ts';
import { Choice } from '../../ui/field.tsx';
import { Notice } from '../../ui/heading.tsx';

/** Which instrument a track plays; choosing another brings its positions and a first keymap. */
export function InstrumentChoice({ track, mayEdit }: { track: Item<'track'>; mayEdit: boolean }) {
  const { libraries } = useLibraries();
  const options = (libraries ?? []).flatMap((library) =>
    library.instruments.map((instrument) => ({
      value: instrument.id,
      text: `${instrument.name} · ${library.name}`,
    })),
  );
  const choose = async (instrumentId: string) => {
    try {
      const instrument = await request<Instrument>('GET', `/instruments/${instrumentId}`);
      edit('Choose the instrument', instrumentEdits(useDocuments.getState().records, track, instrument));
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
