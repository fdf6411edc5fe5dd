import { Plus, X } from 'lucide-react';
import { EQ_KINDS, MOST_BANDS, type EqKind } from '#core/mixing/index.ts';
import { bandsOf } from '../sound/mixes.ts';
import { beginGesture, edit, endGesture, useDocuments, type Item } from '../state/documents.ts';
import { decibels } from '../ui/decibels.ts';
import { Button } from '../ui/button.tsx';
import { Choice } from '../ui/field.tsx';
import { GroupTitle } from '../ui/heading.tsx';
import { A_FREQUENCY, hertzText, parseHertz } from '../ui/hertz.ts';
import { Ruler } from '../ui/ruler.tsx';

const FIRST_BAND = { shape: 'peak', hertz: 400, gainDb: -2, q: 0.8, active: true } as const;

/** The tone of a track, or of one of its positions: a few broad bands, before its level and its hall send. */
export function TonePane({
  track,
  positionId = '',
  mayEdit,
}: {
  track: Pick<Item<'track'>, 'id'>;
  positionId?: string;
  mayEdit: boolean;
}) {
  const bands = useDocuments((state) => bandsOf(state.records, track.id, positionId));
  return (
    <>
      <GroupTitle>Tone</GroupTitle>
      {bands.length === 0 && <p className="text-ink-3">As recorded.</p>}
      {bands.map((band) => (
        <Band key={band.id} band={band} mayEdit={mayEdit} />
      ))}
      {bands.length < MOST_BANDS && (
        <Button
          look="quiet"
          className="py-0"
          disabled={!mayEdit}
          onClick={() =>
            edit('Add a band', [
              {
                kind: 'eqBand',
                id: crypto.randomUUID(),
                op: 'add',
                fields: { ...FIRST_BAND, trackId: track.id, positionId },
              },
            ])
          }
        >
          <Plus size={13} aria-hidden /> Band
        </Button>
      )}
    </>
  );
}

function Band({ band, mayEdit }: { band: Item<'eqBand'>; mayEdit: boolean }) {
  const change = (fields: Record<string, unknown>) =>
    edit(
      'Tone',
      [{ kind: 'eqBand', id: band.id, op: 'update', fields }],
      `band ${band.id} ${Object.keys(fields).join()}`,
    );
  const gesture = (phase: 'begin' | 'end') => (phase === 'begin' ? beginGesture('Tone') : endGesture());
  const name = `${band.shape} at ${hertzText(band.hertz)}`;
  return (
    <div role="group" aria-label={name} className={`mb-1.5 ${band.active ? '' : 'opacity-60'}`}>
      <div className="flex items-center gap-1">
        <Choice
          label={`Shape of the ${name}`}
          hideLabel
          value={band.shape}
          disabled={!mayEdit}
          onChange={(event) => change({ shape: event.target.value as EqKind })}
          options={EQ_KINDS.map((kind) => ({ value: kind, text: kind }))}
        />
        <div className="flex-1" />
        <Button
          className="py-0"
          pressed={band.active}
          disabled={!mayEdit}
          title="Heard or passed over"
          onClick={() => change({ active: !band.active })}
        >
          {band.active ? 'On' : 'Off'}
        </Button>
        <button
          type="button"
          disabled={!mayEdit}
          aria-label={`Remove the ${name}`}
          onClick={() => edit('Remove a band', [{ kind: 'eqBand', id: band.id, op: 'remove' }])}
          className="grid size-6 place-items-center text-ink-3 hover:text-warm disabled:opacity-50"
        >
          <X size={13} aria-hidden />
        </button>
      </div>
      <Ruler
        compact
        label="Gain"
        value={band.gainDb}
        low={-18}
        high={18}
        rest={0}
        step={1}
        unit="dB"
        format={decibels}
        disabled={!mayEdit}
        help="How much this band lifts or lowers. Each band costs a little computing time."
        onChange={(gainDb) => change({ gainDb })}
        onGesture={gesture}
      />
      <Ruler
        compact
        label={band.shape === 'peak' ? 'Middle' : 'Corner'}
        value={Math.log2(band.hertz / 20)}
        low={0}
        high={Math.log2(1000)}
        rest={Math.log2(400 / 20)}
        step={0.25}
        unit={hertzText(band.hertz).split(' ')[1]}
        format={(octaves) => hertzText(20 * 2 ** octaves).split(' ')[0]}
        parse={(text) => {
          const hertz = parseHertz(text);
          return hertz === undefined ? A_FREQUENCY : Math.log2(hertz / 20);
        }}
        disabled={!mayEdit}
        help="Where in the tone the band lies."
        onChange={(octaves) => change({ hertz: Number((20 * 2 ** octaves).toPrecision(3)) })}
        onGesture={gesture}
      />
      <Ruler
        compact
        label="Q"
        value={band.q}
        low={0.2}
        high={8}
        rest={0.8}
        step={0.2}
        disabled={!mayEdit}
        help="How narrow the band is; below 1 it is broad, as tone wants it."
        onChange={(q) => change({ q })}
        onGesture={gesture}
      />
    </div>
  );
}
