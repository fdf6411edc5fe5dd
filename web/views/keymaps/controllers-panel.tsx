import { useEffect, useState } from 'react';
import { naturalId } from '#api/index.ts';
import {
  PARAMETERS,
  PLAIN_TOUCH,
  plainRide,
  tellParameter,
  Responses,
  type Parameter,
  type ParameterId,
  type Ride,
  type ShortDynamics,
  type TouchRules,
} from '#core/keymap/index.ts';
import { overhearMidi, sendFrom } from '../../sound/midi.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { beginGesture, endGesture } from '../../state/documents.ts';
import type { Edit } from '../../state/diff.ts';
import { responsesOf, type HouseKeymap } from '../../state/keymaps.ts';
import { Button } from '../../ui/button.tsx';
import { Choice } from '../../ui/field.tsx';
import { GroupTitle } from '../../ui/heading.tsx';
import { Ruler } from '../../ui/ruler.tsx';
import { toNumber, wholeWithin } from '../../ui/numbers.ts';
import { Typed } from '../../ui/typed.tsx';
import { change } from './keymap-edits.ts';
import type { LookedAt } from './looked-at.ts';

const SCREEN = { id: 'screen', name: 'Screen' };
/** Controllers that mean something else to everybody: banks, data entry, the pedal, and messages to all. */
const NOT_LEARNED = (controller: number) =>
  [0, 6, 32, 38, 64].includes(controller) || (controller >= 96 && controller <= 101) || controller >= 120;

/** Controllers of an instrument: which moves what, along which curve, and what velocity does beside. */
export function ControllersPanel({ looked: { house }, mayEdit }: { looked: LookedAt; mayEdit: boolean }) {
  const [open, setOpen] = useState<ParameterId>();
  const [learning, setLearning] = useState<ParameterId>();
  const responses = responsesOf(house.keymap);
  const rides = house.keymap.rides ?? [];
  useEffect(() => {
    if (learning === undefined) return undefined;
    return overhearMidi(([status, controller]) => {
      if ((status & 0xf0) !== 0xb0 || NOT_LEARNED(controller)) return;
      setLearning(undefined);
      change('Learn a controller', house, rideEdits(house, learning, { controller }));
    });
  }, [learning, house]);
  return (
    <>
      <h2 className="font-serif text-xl font-semibold">Controllers</h2>
      <p className="text-ink-2">
        Parts keep what was played; how this instrument answers to it is set here, for playing and bounces
        alike.
      </p>
      <ul className="mt-1">
        {PARAMETERS.map((parameter) => (
          <li key={parameter.id} className="border-b border-rule-soft">
            <ParameterRow
              parameter={parameter}
              responses={responses}
              changed={rides.some((ride) => ride.parameter === parameter.id)}
              open={open === parameter.id}
              onOpen={() => setOpen(open === parameter.id ? undefined : parameter.id)}
            />
            {open === parameter.id && (
              <RideFields
                house={house}
                parameter={parameter}
                responses={responses}
                mayEdit={mayEdit}
                learning={learning === parameter.id}
                onLearn={() => setLearning(learning === parameter.id ? undefined : parameter.id)}
              />
            )}
          </li>
        ))}
      </ul>
      <Button
        className="mt-2"
        disabled={!mayEdit || rides.length === 0}
        onClick={() =>
          change(
            'All controllers as usual',
            house,
            rides.map(({ id }): Edit => ({ kind: 'ride', id, op: 'remove' })),
          )
        }
      >
        All as usual
      </Button>
      <TouchFields house={house} mayEdit={mayEdit} />
    </>
  );
}

function ParameterRow({
  parameter: { id, name, help },
  responses,
  changed,
  open,
  onOpen,
}: {
  parameter: Parameter;
  responses: Responses;
  changed: boolean;
  open: boolean;
  onOpen: () => void;
}) {
  const { controller, follows } = responses.ride(id);
  return (
    <button
      type="button"
      aria-expanded={open}
      title={help}
      className="flex min-h-7 w-full items-center gap-2 text-left"
      onClick={onOpen}
    >
      <span className={`flex-1 ${changed ? 'font-semibold' : ''}`}>{name}</span>
      <span className="text-ink-2">
        {follows === '' ? `controller ${controller}` : `follows ${nameOf(follows)}`}
      </span>
    </button>
  );
}

const nameOf = (id: ParameterId) => PARAMETERS.find((one) => one.id === id)?.name ?? id;

/** Edits that change how a parameter is ridden; what is as usual again is no longer kept. */
function rideEdits(
  house: HouseKeymap,
  parameter: ParameterId,
  fields: Partial<Omit<Ride, 'id' | 'parameter'>>,
): Edit[] {
  const known = house.keymap.rides?.find((ride) => ride.parameter === parameter);
  const { id: _id, ...next } = { ...(known ?? plainRide(parameter)), ...fields };
  const { id: _plain, ...usual } = plainRide(parameter);
  const isUsual = (Object.keys(usual) as (keyof typeof usual)[]).every((name) => next[name] === usual[name]);
  if (known)
    return [
      isUsual
        ? { kind: 'ride', id: known.id, op: 'remove' }
        : { kind: 'ride', id: known.id, op: 'update', fields },
    ];
  if (isUsual) return [];
  const id = naturalId('ride', house.keymap.id, parameter);
  return [{ kind: 'ride', id, op: 'add', fields: { ...next, keymapId: house.keymap.id } }];
}

function RideFields({
  house,
  parameter: { id, name, help },
  responses,
  mayEdit,
  learning,
  onLearn,
}: {
  house: HouseKeymap;
  parameter: Parameter;
  responses: Responses;
  mayEdit: boolean;
  learning: boolean;
  onLearn: () => void;
}) {
  const ride = responses.ride(id);
  const ridden = usePerformance((state) => state.ridden[ride.controller]);
  const set = (fields: Partial<Omit<Ride, 'id' | 'parameter'>>, merge?: string) =>
    change(`How ${name} is ridden`, house, rideEdits(house, id, fields), merge && `${id} ${merge}`);
  const followed = responses.led(id).length > 1;
  const leader = responses.ride(responses.leader(id));
  const leaderValue = usePerformance((state) => state.ridden[leader.controller]) ?? leader.rest;
  const value = ridden ?? ride.rest;
  return (
    <div className="pb-2">
      <p className="text-xs text-ink-2">{help}</p>
      <div className="flex gap-3">
        <CurvePicture id={id} responses={responses} value={ride.follows === '' ? value : undefined} />
        <div className="flex min-w-0 flex-1 flex-col gap-1">
          <Choice
            label="Moved by"
            className="min-w-0 max-w-[110px]"
            value={ride.follows}
            disabled={!mayEdit || followed}
            title={
              followed
                ? 'Others follow it, so it cannot follow itself'
                : 'Its own controller, or that of another'
            }
            onChange={(event) => set({ follows: event.target.value as ParameterId | '' })}
            options={[
              { value: '', text: 'its own' },
              ...PARAMETERS.filter((one) => one.id !== id && responses.ride(one.id).follows === '').map(
                (one) => ({
                  value: one.id,
                  text: one.name,
                }),
              ),
            ]}
          />
          {ride.follows === '' && (
            <div className="flex items-center gap-1.5">
              <span className="flex-1">Controller</span>
              <Typed
                label={`Controller of ${name}`}
                width="w-10"
                value={String(ride.controller)}
                parse={wholeWithin(0, 119)}
                disabled={!mayEdit}
                onCommit={(controller) => set({ controller })}
              />
              <Button
                className="px-1.5 py-0"
                pressed={learning}
                disabled={!mayEdit}
                title="The next controller that is moved becomes the one"
                onClick={onLearn}
              >
                {learning ? 'Move …' : 'Learn'}
              </Button>
            </div>
          )}
        </div>
      </div>
      <p className="text-ink-2" aria-live="polite">
        Now: {tellParameter(id, responses.shape(id, leaderValue))}
      </p>
      {ride.follows === '' && (
        <Ruler
          compact
          label="Try it"
          value={value}
          low={0}
          high={127}
          rest={ride.rest}
          step={4}
          format={(v) => String(Math.round(v))}
          help={`Sends controller ${ride.controller}, as a fader would.`}
          onChange={(v) => sendFrom(SCREEN, [0xb0, ride.controller, Math.round(v)])}
        />
      )}
      <Ruler
        label="Curve"
        value={ride.curve}
        low={-1}
        high={1}
        rest={0}
        step={0.1}
        format={(v) =>
          v === 0 ? 'straight' : `${v > 0 ? 'late' : 'early'} ${Math.round(Math.abs(v) * 100)}`
        }
        parse={readCurve}
        disabled={!mayEdit}
        help="Straight, or moving early or late on the way. Costs nothing."
        onChange={(curve) => set({ curve: Math.round(curve * 100) / 100 }, 'curve')}
        onGesture={(phase) => (phase === 'begin' ? beginGesture(`Curve of ${name}`) : endGesture())}
      />
      <div className="flex flex-wrap items-center gap-1.5">
        <span>From</span>
        <Typed
          label={`Value of ${name} at 0`}
          width="w-10"
          value={String(ride.low)}
          parse={wholeWithin(0, 127)}
          disabled={!mayEdit}
          onCommit={(low) => set({ low })}
        />
        <span>to</span>
        <Typed
          label={`Value of ${name} at 127`}
          width="w-10"
          value={String(ride.high)}
          parse={wholeWithin(0, 127)}
          disabled={!mayEdit}
          onCommit={(high) => set({ high })}
        />
        {ride.follows === '' && (
          <>
            <span>rests at</span>
            <Typed
              label={`Where ${name} rests`}
              width="w-10"
              value={String(ride.rest)}
              parse={wholeWithin(0, 127)}
              disabled={!mayEdit}
              onCommit={(rest) => set({ rest })}
            />
          </>
        )}
        <button
          type="button"
          disabled={!mayEdit || !house.keymap.rides?.some((one) => one.parameter === id)}
          className="ml-auto min-h-6 text-cool underline disabled:text-ink-3 disabled:no-underline"
          onClick={() => set(usualFields(id))}
        >
          As usual
        </button>
      </div>
    </div>
  );
}

function usualFields(id: ParameterId): Partial<Omit<Ride, 'id' | 'parameter'>> {
  const { controller, curve, low, high, rest, follows } = plainRide(id);
  return { controller, curve, low, high, rest, follows };
}

const SIZE = 64;

/** How the controller's value becomes what is heard, with where it stands now. */
function CurvePicture({
  id,
  responses,
  value,
}: {
  id: ParameterId;
  responses: Responses;
  value: number | undefined;
}) {
  const at = (v: number) => SIZE - (responses.shape(id, v) / 127) * SIZE;
  const path = Array.from({ length: 33 }, (_, i) => `${(i / 32) * SIZE} ${at((i / 32) * 127)}`).join('L');
  return (
    <svg
      width={SIZE + 2}
      height={SIZE + 2}
      viewBox={`-1 -1 ${SIZE + 2} ${SIZE + 2}`}
      role="img"
      aria-label={`${responses.shape(id, 0).toFixed(0)} at 0, ${responses.shape(id, 64).toFixed(0)} at 64, ${responses.shape(id, 127).toFixed(0)} at 127`}
      className="shrink-0 self-start"
    >
      <rect width={SIZE} height={SIZE} fill="var(--raised)" stroke="var(--rule)" />
      <path d={`M${path}`} fill="none" stroke="var(--ink)" strokeWidth="1.5" />
      {value !== undefined && (
        <circle cx={(value / 127) * SIZE} cy={at(value)} r="3" fill="var(--cool)" stroke="var(--sheet)" />
      )}
    </svg>
  );
}

/** What velocity does to long notes, and dynamics to short ones. */
function TouchFields({ house, mayEdit }: { house: HouseKeymap; mayEdit: boolean }) {
  const touch = house.keymap.touch ?? PLAIN_TOUCH;
  const set = (fields: Partial<TouchRules>, merge?: string) =>
    change(
      'What velocity does',
      house,
      [{ kind: 'keymap', id: house.keymap.id, op: 'update', fields }],
      merge && `touch ${merge}`,
    );
  return (
    <>
      <GroupTitle>Velocity and dynamics</GroupTitle>
      <Ruler
        compact
        label="Velocity to the level of longs"
        value={touch.longVelocityDb}
        low={0}
        high={40}
        rest={0}
        step={1}
        unit="dB"
        format={(v) => String(Math.round(v))}
        disabled={!mayEdit}
        help="How much softer a long note struck at 1 is than one at 127. 0 leaves it to dynamics alone."
        onChange={(v) => set({ longVelocityDb: Math.round(v) }, 'level')}
      />
      <VelocityFrom
        label="Hard longs get an accent from"
        value={touch.hardAttackFrom}
        mayEdit={mayEdit}
        onCommit={(hardAttackFrom) => set({ hardAttackFrom })}
      />
      <VelocityFrom
        label="Soft connected notes slide up to"
        value={touch.slideBelow}
        mayEdit={mayEdit}
        onCommit={(slideBelow) => set({ slideBelow })}
      />
      <VelocityFrom
        label="Hard connected notes change the bow from"
        value={touch.bowFrom}
        mayEdit={mayEdit}
        onCommit={(bowFrom) => set({ bowFrom })}
      />
      <Choice
        label="Dynamics move short notes’"
        value={touch.shortDynamics}
        disabled={!mayEdit}
        title="Velocity decides how a short note is struck; dynamics may move its level too, or raise it to always loud"
        onChange={(event) => set({ shortDynamics: event.target.value as ShortDynamics })}
        options={[
          { value: 'none', text: 'nothing more' },
          { value: 'level', text: 'level' },
          { value: 'force', text: 'force' },
        ]}
      />
    </>
  );
}

function VelocityFrom({
  label,
  value,
  mayEdit,
  onCommit,
}: {
  label: string;
  value: number;
  mayEdit: boolean;
  onCommit: (value: number) => void;
}) {
  return (
    <div className="flex items-center justify-between gap-2 py-0.5">
      <span>{label}</span>
      <Typed
        label={label}
        width="w-12"
        value={value === 0 ? 'off' : String(value)}
        parse={(text) => (text.trim() === '' || /^off$/i.test(text.trim()) ? 0 : wholeWithin(0, 127)(text))}
        disabled={!mayEdit}
        onCommit={onCommit}
      />
    </div>
  );
}

/** How a curve is written, read: `straight`, `late 30`, `early 30`, or −100 … 100. */
function readCurve(text: string): number | string {
  const match = /^(straight|late|early)?\s*(.*)$/i.exec(text.trim());
  const word = match?.[1]?.toLowerCase();
  const per = word === 'straight' ? 0 : toNumber(match?.[2] ?? '');
  if (per === undefined || Math.abs(per) > 100) return 'straight, or early or late with a number to 100.';
  return ((word === 'early' ? -1 : 1) * per) / 100;
}
