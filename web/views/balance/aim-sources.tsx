import { toast } from 'sonner';
import type { ReferenceInfo } from '#api/index.ts';
import { readMix, stereoOf, type MixFigures } from '#core/balance/index.ts';
import { togetherOf } from '#core/report/index.ts';
import { figuresAs, useBalance } from '../../sound/balance.ts';
import { orderedTracks } from '../../state/cue.ts';
import { useDocuments, useList, type Item } from '../../state/documents.ts';
import { useLibraries } from '../../state/libraries.ts';
import { chosenPassage, chosenSound, useReferences } from '../../state/references.ts';
import { measure, reportOf } from '../../state/reports.ts';
import { Choice } from '../../ui/field.tsx';

/** What a section is to reach, as far as it is taken over; null is left free. */
export type TakenAims = Partial<Pick<Item<'aim'>, 'loudnessDb' | 'depthDb' | 'sideDb'>>;

interface Taken {
  label: string;
  aims: TakenAims;
}

/** Something that aims can be taken from. */
interface Source {
  id: string;
  text: string;
  /** @returns undefined when it says nothing of the section, and that was told */
  take: () => Promise<Taken | undefined>;
}

/** Takes aims of a section from another section, a mix, an instrument of another library or a recording. */
export function AimSources({
  track,
  mayEdit,
  onTake,
}: {
  track: Item<'track'>;
  mayEdit: boolean;
  onTake: (label: string, aims: TakenAims) => void;
}) {
  const sources = [...useMixes(track), ...useSections(track), ...useElsewhere(track), ...useRecordings()];
  if (sources.length === 0) return null;
  const takeFrom = async (id: string) => {
    const taken = await sources.find((source) => source.id === id)?.take();
    if (taken) onTake(taken.label, taken.aims);
  };
  return (
    <Choice
      label="As"
      className="mt-1.5"
      value=""
      disabled={!mayEdit}
      onChange={(event) =>
        void takeFrom(event.target.value).catch((error: Error) => toast.error(error.message))
      }
      options={[
        { value: '', text: 'another section, mix or library …' },
        ...sources.map(({ id, text }) => ({ value: id, text })),
      ]}
    />
  );
}

/** Hook: mixes that are kept. The same section in another mix is meant as loud as it was there. */
function useMixes(track: Item<'track'>): Source[] {
  const snapshots = useList('snapshot');
  const keptMixes = useList('keptMix');
  return [
    ...snapshots.map(({ slot, mix }) => ({ id: `mix ${slot}`, text: `as in mix ${slot}`, mix })),
    ...keptMixes.map(({ id, name, mix }) => ({ id, text: `as in “${name}”`, mix })),
  ].map(({ id, text, mix }) => ({
    id,
    text,
    take: async () => {
      const figures = await figuresInMix(track, mix);
      return (
        figures && {
          label: 'Aims from a kept mix',
          aims: { ...placeOf(figures), loudnessDb: tenths(figures.loudness) },
        }
      );
    },
  }));
}

/** Hook: other sections. They may be louder or softer. */
function useSections(track: Item<'track'>): Source[] {
  const sections = useBalance((state) => state.sections);
  const tracks = useDocuments((state) => orderedTracks(state.records));
  return tracks.flatMap(({ id, name }) => {
    const figures = sections[id]?.figures;
    return id === track.id || !figures
      ? []
      : [
          {
            id,
            text: name,
            take: () => Promise.resolve({ label: 'Aims from another section', aims: placeOf(figures) }),
          },
        ];
  });
}

/** Hook: instruments of the same family in libraries that a track does not play, as they were recorded. */
function useElsewhere({ family, instrumentId }: Item<'track'>): Source[] {
  const libraries = useLibraries((state) => state.libraries) ?? [];
  return libraries
    .filter(({ instruments }) => !instruments.some(({ id }) => id === instrumentId))
    .flatMap((library) =>
      library.instruments
        .filter((one) => one.family === family)
        .map((one) => ({
          id: one.id,
          text: `as recorded: ${one.name}, ${library.name}`,
          take: async () => {
            const together = togetherOf((await reportOf(one.id)).reports);
            const isKnown = together.depthDb !== undefined || together.sideDb !== undefined;
            if (isKnown && together.depthDb === undefined)
              toast(`How far away ${one.name} of ${library.name} stands cannot be told from its recordings.`);
            if (isKnown) return { label: `Aims as ${one.name}, ${library.name}`, aims: placeOf(together) };
            toast(`${one.name} of ${library.name} was not measured yet.`, {
              action: { label: 'Measure it', onClick: () => measure(one.id) },
            });
            return undefined;
          },
        })),
    );
}

/** Hook: passages of recordings. Of depth and loudness of one section a mix of all says nothing. */
function useRecordings(): Source[] {
  const { list = [] } = useReferences();
  return list.map((reference) => ({
    id: reference.id,
    text: `as wide as ${passageText(reference)}`,
    take: async () => {
      const { left, right } = await chosenSound(reference);
      const { sideDb } = stereoOf([left, right]);
      return { label: `Width as in ${reference.name}`, aims: { sideDb: tenths(sideDb) } };
    },
  }));
}

const tenths = (value: number | undefined) =>
  value === undefined || !Number.isFinite(value) ? null : Math.round(value * 10) / 10;

const placeOf = ({ depthDb, sideDb }: { depthDb?: number; sideDb?: number }) => ({
  depthDb: tenths(depthDb),
  sideDb: tenths(sideDb),
});

/** A recording and its passage that is looked at in Listen. */
function passageText(reference: ReferenceInfo): string {
  const { from, to } = chosenPassage(reference);
  const at = (seconds: number) =>
    `${Math.floor(seconds / 60)}:${Math.floor(seconds % 60)
      .toString()
      .padStart(2, '0')}`;
  return `“${reference.name}”, ${at(from)}–${at(to)}`;
}

/** What a kept mix makes of a section; undefined when it says nothing of it. */
async function figuresInMix({ id, name }: Item<'track'>, mix: string): Promise<MixFigures | undefined> {
  const tracks = readMix(mix)?.tracks;
  const own = tracks?.find((one) => one.id === id) ?? tracks?.find((one) => one.name === name);
  if (!own) toast(`That mix says nothing of ${name}.`);
  return own && figuresAs(id, own);
}
