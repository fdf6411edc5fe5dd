import type { LibrarySummary } from '#api/index.ts';
import { megabytes } from '../../ui/megabytes.ts';
import { pricePerGb } from './shelf-state.ts';

/** Facts of a library as lines to read, in the order in which people ask for them. */
export function libraryFacts(library: LibrarySummary): { name: string; text: string }[] {
  const { facts, instruments } = library;
  const perGb = pricePerGb(library);
  const positions = new Set(instruments.flatMap((one) => one.positions.map((position) => position.name)));
  const techniques = instruments.map((one) => one.articulations.length);
  const all = instruments.flatMap((one) => one.articulations);
  const most = (list: readonly number[]) => (list.length > 0 ? Math.max(...list) : 0);
  const least = techniques.length > 0 ? Math.min(...techniques) : 0;
  return [
    { name: 'Maker', text: library.maker },
    { name: 'Edition', text: facts.edition || '—' },
    { name: 'Players', text: facts.players || '—' },
    { name: 'Room', text: `${library.room}, ${facts.roomSound}` },
    { name: 'Positions', text: `${positions.size}: ${[...positions].join(', ').toLowerCase()}` },
    { name: 'Instruments', text: String(instruments.length) },
    {
      name: 'Techniques',
      text: least === most(techniques) ? `${least} each` : `${least} to ${most(techniques)} each`,
    },
    { name: 'Layers', text: `up to ${most(all.map((one) => one.layers))}` },
    { name: 'Takes', text: `up to ${most(all.map((one) => one.takes))}` },
    { name: 'Moves', text: `${all.reduce((sum, one) => sum + one.transitions, 0)} recorded` },
    { name: 'Disk, memory', text: megabytes(library.bytes) },
    { name: 'Price', text: facts.price === null ? '—' : `${facts.price.toLocaleString('en')} marks` },
    {
      name: 'Price a GB',
      text: perGb === null ? '—' : `${Math.round(perGb).toLocaleString('en')} marks`,
    },
  ];
}
