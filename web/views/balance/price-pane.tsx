import { useState } from 'react';
import { MEMORY_BUDGET_BYTES } from '../../app/memory-budget.ts';
import { lightMixOf, useBalance } from '../../sound/balance.ts';
import { useCapacity, voiceLimit } from '../../sound/capacity.ts';
import { useInstruments } from '../../sound/instruments.ts';
import { useNotesAtOnce } from '../../sound/price.ts';
import { takeMixes } from '../../state/balance.ts';
import { orderedTracks } from '../../state/cue.ts';
import { useDocuments, useList } from '../../state/documents.ts';
import { Button } from '../../ui/button.tsx';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { signed } from './figures.ts';
import { megabytes } from '../../ui/megabytes.ts';

const OFF_DB = -60;

/** What all positions together cost, and a mix of fewer that stands in for them. */
export function PricePane({ mayEdit }: { mayEdit: boolean }) {
  const heldBytes = useInstruments((state) => state.heldBytes);
  const cells = useList('positionMix');
  const measured = useBalance((state) => Object.values(state.sections).some(({ figures }) => figures));
  const [working, setWorking] = useState(false);
  const [told, setTold] = useState<string>();
  const most = useNotesAtOnce();
  const limit = useCapacity(voiceLimit);
  const heard = cells.filter(({ levelDb }) => levelDb > OFF_DB).length;
  const lighten = async (most: 1 | 2) => {
    setWorking(true);
    try {
      setTold(await lightenAll(most));
    } finally {
      setWorking(false);
    }
  };
  return (
    <>
      <GroupTitle>Price</GroupTitle>
      <p className="text-sm">
        {megabytes(heldBytes)} of {megabytes(MEMORY_BUDGET_BYTES)}; {heard} of {cells.length} cells are heard.
        What is off is not loaded.
        {most > 0 && (
          <>
            {' '}
            At most {most} notes sound at once in the passage; this machine plays {limit}.
          </>
        )}
      </p>
      <div className="mt-1 flex flex-wrap items-center gap-1.5">
        {([1, 2] as const).map((most) => (
          <Button
            key={most}
            disabled={!mayEdit || !measured || working}
            title="Replaces the mix of every measured section by the positions that come nearest to it in loudness, depth and width."
            onClick={() => void lighten(most)}
          >
            {most === 1 ? 'Light: one position' : 'Light: two'}
          </Button>
        ))}
      </div>
      {told && <Notice tone="cool">{told}</Notice>}
    </>
  );
}

/** Gives every measured section a mix of few positions. @returns what came of it */
async function lightenAll(most: 1 | 2): Promise<string> {
  const tracks = orderedTracks(useDocuments.getState().records);
  const found = await Promise.all(
    tracks.map(async (track) => ({ track, light: await lightMixOf(track.id, most).catch(() => undefined) })),
  );
  const lights = found.flatMap(({ track, light }) => (light ? [{ track, light }] : []));
  if (lights.length === 0) return 'No section that was measured has more positions than that.';
  takeMixes(
    lights.map(({ track, light }) => ({ trackId: track.id, mix: light.mix })),
    'Light mix of all sections',
  );
  const worst = lights.reduce((last, one) => (last.light.errorDb >= one.light.errorDb ? last : one));
  const error = signed(worst.light.errorDb).replace('+', '');
  return `${lights.length} sections have a light mix now, off by ${error} dB at most (${worst.track.name}). One step back undoes it.`;
}
