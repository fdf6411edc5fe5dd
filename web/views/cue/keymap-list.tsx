import { useState } from 'react';
import { articulationTerm, type Instrument } from '#core/catalogue/index.ts';
import { findClashes, freeKey, type Clash } from '#core/keymap/index.ts';
import { parsePitch, pitchName } from '#core/music/index.ts';
import { edit, useList, useOwnedBy, type Item } from '../../state/documents.ts';
import { selectArticulation } from '../../sound/hands.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { GroupTitle, Notice } from '../../ui/heading.tsx';

/** The keymap of a track: which key selects which articulation. A key that clashes is refused with its reason. */
export function KeymapList({
  track,
  instrument,
  mayEdit,
}: {
  track: Item<'track'>;
  instrument: Instrument;
  mayEdit: boolean;
}) {
  const triggers = useOwnedBy('trigger', track.id);
  const middleC = useList('template')[0]?.middleC ?? 4;
  const articulation = usePerformance((state) => state.articulation);
  const [typed, setTyped] = useState<{ id: string; text: string }>();
  const [refused, setRefused] = useState<Clash & { text: string }>();
  const missing = instrument.articulations.filter(
    (a) => !triggers.some((trigger) => trigger.articulation === a.id),
  );

  const setKey = (id: string, key: number) => {
    edit('Keyswitch', [{ kind: 'trigger', id, op: 'update', fields: { key } }]);
    setRefused(undefined);
  };
  const commit = (trigger: Item<'trigger'>) => {
    if (!typed || typed.id !== trigger.id) return;
    setTyped(undefined);
    const key =
      parsePitch(typed.text, middleC) ?? (/^\d+$/.test(typed.text.trim()) ? Number(typed.text) : undefined);
    if (key === undefined) {
      setRefused({
        triggerId: trigger.id,
        text: typed.text,
        sentence: `“${typed.text}” is no key. Write a name such as ${pitchName(24, middleC)}, or a number from 0 to 127.`,
      });
      return;
    }
    if (key === trigger.key) return setRefused(undefined);
    // The changed one goes last: of two on one key, it is the one to be refused.
    const wanted = [...triggers.filter((other) => other.id !== trigger.id), { ...trigger, key }];
    const clash = findClashes(wanted, instrument, middleC).find(
      (candidate) => candidate.triggerId === trigger.id,
    );
    if (clash) setRefused({ ...clash, text: typed.text });
    else setKey(trigger.id, key);
  };
  const add = (id: string, suggested: number | undefined) => {
    const key = freeKey(triggers, instrument, suggested ?? 24);
    if (key !== undefined)
      edit('Keyswitch', [
        {
          kind: 'trigger',
          id: crypto.randomUUID(),
          op: 'add',
          fields: { trackId: track.id, articulation: id, key, hold: 'latching' },
        },
      ]);
  };
  return (
    <>
      <GroupTitle>Keymap</GroupTitle>
      <ul>
        {[...triggers]
          .sort((a, b) => a.key - b.key)
          .map((trigger) => (
            <li
              key={trigger.id}
              className={`flex items-center gap-1.5 border-b border-rule-soft py-0.5 ${trigger.articulation === articulation ? 'bg-cool-tint' : ''}`}
            >
              <button
                type="button"
                onClick={() => selectArticulation(trigger.articulation)}
                aria-pressed={trigger.articulation === articulation}
                title="Play with this articulation"
                className="flex min-h-6 min-w-0 flex-1 items-center gap-1.5 text-left"
              >
                <span className="w-6 shrink-0 rounded-sm border border-rule text-center text-xs font-semibold">
                  {articulationTerm(trigger.articulation).tab}
                </span>
                <span className="truncate">{articulationTerm(trigger.articulation).name}</span>
              </button>
              <input
                aria-label={`Keyswitch of ${articulationTerm(trigger.articulation).name}`}
                aria-invalid={refused?.triggerId === trigger.id}
                className="w-11 rounded-sm border border-transparent bg-transparent px-1 font-semibold hover:border-rule focus:border-rule focus:bg-raised"
                disabled={!mayEdit}
                value={typed?.id === trigger.id ? typed.text : pitchName(trigger.key, middleC)}
                onFocus={(event) => event.target.select()}
                onChange={(event) => setTyped({ id: trigger.id, text: event.target.value })}
                onBlur={() => commit(trigger)}
                onKeyDown={(event) => {
                  if (event.key === 'Enter') commit(trigger);
                  if (event.key === 'Escape') setTyped(undefined);
                }}
              />
              <button
                type="button"
                disabled={!mayEdit}
                title="Latching stays chosen; held only while the key is down"
                onClick={() =>
                  edit('Keyswitch', [
                    {
                      kind: 'trigger',
                      id: trigger.id,
                      op: 'update',
                      fields: { hold: trigger.hold === 'latching' ? 'held' : 'latching' },
                    },
                  ])
                }
                className="min-h-6 w-[54px] text-right text-xs text-ink-2 hover:text-ink"
              >
                {trigger.hold === 'latching' ? 'latching' : 'held'}
              </button>
            </li>
          ))}
      </ul>
      {missing.map((a) => (
        <button
          key={a.id}
          type="button"
          disabled={!mayEdit}
          onClick={() => add(a.id, a.suggestedKey)}
          className="block min-h-6 text-xs text-cool underline disabled:opacity-50"
        >
          Give {articulationTerm(a.id).name} a keyswitch
        </button>
      ))}
      <div role="alert">
        {refused && (
          <Notice tone="warm">
            {refused.sentence}{' '}
            {refused.betterKey !== undefined && (
              <button
                type="button"
                className="text-cool underline"
                onClick={() => setKey(refused.triggerId, refused.betterKey ?? 0)}
              >
                Use {pitchName(refused.betterKey, middleC)} instead
              </button>
            )}
          </Notice>
        )}
      </div>
    </>
  );
}
