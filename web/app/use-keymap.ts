import { useDocuments, type Item } from '../state/documents.ts';
import { keymapOfInstrument, keymapOfTrack, summaryOf, type HouseKeymap } from '../state/keymaps.ts';
import { useLibraries } from '../state/libraries.ts';

/** Hook: the keymap a track is played by. */
export function useTrackKeymap(track: Item<'track'> | undefined): HouseKeymap | undefined {
  useLibraries((state) => state.libraries);
  return useDocuments((state) => track && keymapOfTrack(state.records, track, track.instrumentId));
}

/** Hook: the keymap an instrument has in the house. */
export function useInstrumentKeymap(instrumentId: string | undefined): HouseKeymap | undefined {
  useLibraries((state) => state.libraries);
  return useDocuments((state) => {
    const instrument = summaryOf(instrumentId);
    return instrument && keymapOfInstrument(state.records, instrument);
  });
}
