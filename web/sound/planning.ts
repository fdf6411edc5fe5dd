import type { Part } from '#core/music/index.ts';
import { planPart, type Plan } from '#core/performance/index.ts';
import { orderedTracks, partOf, tempoOf } from '../state/cue.ts';
import { ownedBy, useDocuments } from '../state/documents.ts';
import { needArticulation } from './hands.ts';
import { useInstruments, wantOnce } from './instruments.ts';
import { AS_WRITTEN, soundOf } from './mixes.ts';
import { playedBy, wantSoon } from './planned-sounds.ts';
import { setupOfTrack } from './playing-by.ts';
import { usePerformance, type Unheard } from './performance-state.ts';
import { replan } from './transport.ts';

/** Plans every part anew where something changed, and lets what plays go on with it. */
export function planAll(): void {
  const { records } = useDocuments.getState();
  const { loads } = useInstruments.getState();
  const tempo = tempoOf(records);
  const plans: Record<string, Plan> = {};
  const before = usePerformance.getState().plans;
  for (const track of orderedTracks(records)) {
    // What a person mutes for themselves is planned all the same: it takes no time when it is heard again.
    const sound = soundOf(records, track, AS_WRITTEN);
    const load = sound.instrumentId ? loads[sound.instrumentId] : undefined;
    if (!load) continue;
    const { voicing, responses } = setupOfTrack(records, track, load.instrument, sound.tried);
    const moves = ownedBy(records, 'levelPoint', track.id);
    const context = {
      tempo,
      instrument: load.instrument,
      mix: sound.mix,
      mode: track.mode,
      articulation: sound.articulation,
      voicing,
      responses,
      audio: load.complete ? load.audio : undefined,
      // Once a level has moved, that it rests has to be told as well.
      moves: moves.length > 0 || before[track.id]?.context.moves ? moves : undefined,
    };
    const part = heardPart(track.id, partOf(records, track.id).part);
    const known = before[track.id];
    if (known && (known.part.marks !== part.marks || known.context.voicing !== context.voicing))
      for (const { articulation } of part.marks)
        needArticulation(load.instrument.id, articulation, context.voicing);
    const same =
      known &&
      known.part === part &&
      (Object.keys(context) as (keyof typeof context)[]).every(
        (name) => known.context[name] === context[name],
      );
    plans[track.id] = same ? known : planPart(part, context, known);
    if (!known) void wantOnce(load.instrument, playedBy(plans[track.id]));
    else if (!same) wantSoon();
  }
  const ids = Object.keys(plans);
  if (ids.length === Object.keys(before).length && ids.every((id) => plans[id] === before[id])) return;
  usePerformance.setState({ plans });
  replan();
}

let lastHeard: { part: Part; unheard: Unheard; heard: Part } | undefined;

/** A part without what is not heard of it; the same one as before while nothing changes. */
function heardPart(trackId: string, part: Part): Part {
  const { unheard } = usePerformance.getState();
  if (unheard?.trackId !== trackId) return part;
  if (lastHeard?.part === part && lastHeard.unheard === unheard) return lastHeard.heard;
  const { notes: span, curves } = unheard;
  const heard: Part = {
    notes: span
      ? part.notes.filter(({ startTick }) => startTick < span.fromTick || startTick >= span.toTick)
      : part.notes,
    marks: part.marks,
    points: part.points.filter(
      ({ controller, tick }) => !curves.some((one) => one.controller === controller && tick >= one.fromTick),
    ),
  };
  lastHeard = { part, unheard, heard };
  return heard;
}
