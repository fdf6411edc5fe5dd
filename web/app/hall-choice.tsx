import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { HALL_LIMITS, SHARED_HALLS, type SharedHall } from '#core/rooms/index.ts';
import { clamp } from '#core/units/index.ts';
import { addHall, removeHall, useOwnHalls } from '../state/halls.ts';
import { confirmLoss } from '../ui/ask.tsx';
import { Button } from '../ui/button.tsx';
import { Choice } from '../ui/field.tsx';
import { Notice } from '../ui/heading.tsx';

const LAID: Record<number, string> = {
  1: 'one channel: each side answers by itself',
  2: 'two channels: both sides are heard as a source in the middle',
  4: 'four channels: each side is heard at both',
};

/** Which hall is shared: one that ships with Farlo, or an impulse response of the studio's own. */
export function HallChoice({
  hall,
  mayEdit,
  onChoose,
}: {
  hall: string;
  mayEdit: boolean;
  onChoose: (hall: string, decaySeconds: number) => void;
}) {
  const { list, trouble, taking } = useOwnHalls();
  const [refused, setRefused] = useState<string>();
  const input = useRef<HTMLInputElement>(null);
  const own = list.find(({ id }) => id === hall);
  const choose = (id: string) => {
    const seconds =
      list.find((one) => one.id === id)?.decaySeconds ?? SHARED_HALLS[id as SharedHall]?.decaySeconds ?? 1;
    onChoose(id, clamp(seconds, HALL_LIMITS.decaySeconds[0], HALL_LIMITS.decaySeconds[1]));
  };
  const take = async (file: File | undefined) => {
    if (!file) return;
    setRefused(undefined);
    try {
      const taken = await addHall(file);
      if (!taken) return;
      if (taken.remarks.length > 0) toast(`${taken.name}: ${taken.remarks.join(' ')}`);
      onChoose(taken.id, clamp(taken.decaySeconds, HALL_LIMITS.decaySeconds[0], HALL_LIMITS.decaySeconds[1]));
    } catch (error) {
      setRefused((error as Error).message);
    }
  };
  const remove = async () => {
    if (!own) return;
    const sure = await confirmLoss(
      'Remove this hall',
      `“${own.name}” is removed from the studio, and this template goes back to Harbour Hall.`,
      'Remove',
    );
    if (!sure) return;
    choose('harbour');
    try {
      await removeHall(own.id);
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <>
      <Choice
        label="Hall"
        className="mt-1 max-w-[180px]"
        disabled={!mayEdit}
        value={hall}
        onChange={(event) => choose(event.target.value)}
        options={[
          ...Object.entries(SHARED_HALLS).map(([value, { name }]) => ({ value, text: name })),
          ...list.map(({ id, name }) => ({ value: id, text: name })),
          ...(own || hall in SHARED_HALLS ? [] : [{ value: hall, text: 'taken away' }]),
        ]}
      />
      {own && (
        <p className="mt-1 text-xs text-ink-2">
          Recorded, {(own.frames / 48_000).toFixed(1)} s, falls by 60 dB in {own.decaySeconds.toFixed(2)} s;{' '}
          {LAID[own.channels]}. Damping below a half leaves it as recorded.
        </p>
      )}
      <div className="mt-1 mb-1.5 flex gap-1.5">
        <Button
          disabled={!mayEdit || taking}
          title="An impulse response as WAV or FLAC: mono, stereo, or four channels (left source at left and right, right source at left and right)."
          onClick={() => input.current?.click()}
        >
          {taking ? 'Takes it in …' : 'Your own …'}
        </Button>
        {own && (
          <Button disabled={!mayEdit} onClick={() => void remove()}>
            Remove it
          </Button>
        )}
        <input
          ref={input}
          type="file"
          aria-label="Impulse response"
          className="hidden"
          accept=".wav,.wave,.flac"
          onChange={(event) => {
            void take(event.target.files?.[0]);
            event.target.value = '';
          }}
        />
      </div>
      {(refused ?? trouble) && <Notice tone="warm">{refused ?? trouble}</Notice>}
    </>
  );
}
