import { useEffect } from 'react';
import { useNavigate, useParams } from 'react-router';
import { usePageTitle } from '../../app/page-title.ts';
import { useOwned } from '../../state/libraries.ts';
import { selectInstrument, useShelf } from './shelf-state.ts';

/** Keeps the address and the chosen instrument in step, so that it can be linked to and the back button returns to it. */
export function useShelfAddress(): void {
  const { instrumentId: wanted } = useParams();
  const navigate = useNavigate();
  const selected = useShelf((state) => state.selected);
  const chosen = selected?.kind === 'instrument' ? selected.id : undefined;
  usePageTitle('Shelf', useOwned(chosen)?.instrument.name);
  useEffect(() => {
    if (wanted !== undefined) selectInstrument(wanted);
  }, [wanted]);
  useEffect(() => {
    const now = useShelf.getState().selected;
    if (now?.kind === 'instrument' && now.id !== wanted)
      // From one instrument to the next the way back is kept; the first only completes the address.
      void navigate(`/shelf/${now.id}`, { replace: wanted === undefined });
  }, [chosen, wanted, navigate]);
}
