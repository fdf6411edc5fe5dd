import { CORE_VOCABULARY, type Vocabulary } from '../catalogue/index.ts';
import { describeTrigger, sourcesOf, triggerSets, type Keymap } from '../keymap/index.ts';
import { pitchName, type MiddleC } from '../music/index.ts';

/** A keymap on paper, with the range it is played over. */
export interface PrintedKeymap {
  keymap: Keymap;
  /** Who plays by it: “Violins I, Wrenlow Strings”. */
  about: string;
  range: { low: number; high: number } | undefined;
}

/**
 * Keyswitch lists as one HTML page that stands by itself: for paper, or for a PDF by the browser. Nothing in it is fetched,
 * and no script runs.
 */
export function keymapListHtml(
  title: string,
  keymaps: readonly PrintedKeymap[],
  middleC: MiddleC = 4,
  vocabulary: Vocabulary = CORE_VOCABULARY,
): string {
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<title>${escaped(title)}</title>
<style>
  @page { margin: 16mm; }
  body { font: 11pt/1.4 Georgia, serif; color: #1c2326; max-width: 180mm; margin: 0 auto; padding: 8mm 0; }
  h1 { font-size: 18pt; margin: 0 0 2mm; }
  h2 { font-size: 13pt; margin: 8mm 0 1mm; }
  section { break-inside: avoid; }
  p { margin: 0 0 2mm; color: #4a5355; }
  table { border-collapse: collapse; width: 100%; }
  th { text-align: left; font-weight: normal; color: #687072; border-bottom: 0.4mm solid #1c2326; }
  td { border-bottom: 0.2mm solid #d6cebd; vertical-align: top; }
  th, td { padding: 0.8mm 3mm 0.8mm 0; }
  td:first-child { white-space: nowrap; font-weight: bold; }
  i { color: #4a5355; }
</style>
</head>
<body>
<h1>${escaped(title)}</h1>
<p>Middle C is C${middleC}.</p>
${keymaps.map((one) => sectionOf(one, middleC, vocabulary)).join('\n')}
</body>
</html>
`;
}

function sectionOf(
  { keymap, about, range }: PrintedKeymap,
  middleC: MiddleC,
  vocabulary: Vocabulary,
): string {
  const rows = keymap.entries.map((entry) => {
    const { name, written } = vocabulary.term(entry.articulation);
    const by = triggerSets(entry).map((set) => set.map((one) => describeTrigger(one, middleC)).join(' + '));
    const sounds = sourcesOf(entry).map(({ articulation }) => vocabulary.term(articulation).name);
    const first = entry.articulation === keymap.initial ? ' (from the beginning)' : '';
    return `<tr><td>${escaped(by.join(' or ') || 'marks only')}</td><td>${escaped(name)}${first}</td><td><i>${escaped(written)}</i></td><td>${entry.sources.length === 0 ? '' : escaped(sounds.join(entry.morph === undefined ? ' with ' : ' to '))}</td></tr>`;
  });
  const played = range ? `, ${pitchName(range.low, middleC)} to ${pitchName(range.high, middleC)}` : '';
  return `<section>
<h2>${escaped(keymap.name)}</h2>
<p>${escaped(about)}${played}</p>
<table>
<thead><tr><th>selected by</th><th>articulation</th><th>written</th><th>sounds</th></tr></thead>
<tbody>
${rows.join('\n')}
</tbody>
</table>
</section>`;
}

const escaped = (text: string) =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');

/** Keyswitches of a keymap as headers of an SFZ instrument: a range, the key that holds first, and a labelled group per switch. */
export function sfzSwitchLabels(keymap: Keymap, vocabulary: Vocabulary = CORE_VOCABULARY): string {
  const keys = keymap.entries.flatMap((entry) =>
    entry.triggers.flatMap(({ kind, number, hold }) => (kind === 'key' ? [{ entry, number, hold }] : [])),
  );
  if (keys.length === 0) return '// No articulation of this keymap has a keyswitch.\n';
  const low = Math.min(...keys.map(({ number }) => number));
  const high = Math.max(...keys.map(({ number }) => number));
  const first = keys.find(({ entry }) => entry.articulation === keymap.initial) ?? keys[0];
  const groups = keys.map(
    ({ entry, number, hold }) =>
      `<group> ${hold === 'held' ? 'sw_down' : 'sw_last'}=${number} sw_label=${vocabulary.term(entry.articulation).name.replace(/[\r\n<>]/g, ' ')}`,
  );
  return `// Keyswitches of ${keymap.name.replace(/[\r\n]/g, ' ')}
<global> sw_lokey=${low} sw_hikey=${high} sw_default=${first.number}
${groups.join('\n')}
`;
}
