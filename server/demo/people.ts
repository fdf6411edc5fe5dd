import type { SessionInfo } from '#api/index.ts';

/** The invented people of Saltglass Music, one for each role. */
export const DEMO_PEOPLE: SessionInfo['demo'] = [
  { name: 'Ilse Marrow', email: 'ilse@saltglass.example', password: 'lantern-and-tide', role: 'owner' },
  { name: 'Tomas Oake', email: 'tomas@saltglass.example', password: 'ferry-at-nine', role: 'editor' },
  { name: 'Wren Calder', email: 'wren@saltglass.example', password: 'listen-only', role: 'viewer' },
];
