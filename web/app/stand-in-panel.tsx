import { useState } from 'react';
import { X } from 'lucide-react';
import { CONTROLLER } from '#core/music/index.ts';
import { sendFrom, STAND_IN } from '../sound/midi.ts';
import { usePerformance } from '../sound/performance-state.ts';
import { Button } from '../ui/button.tsx';
import { Keyboard } from '../ui/keyboard.tsx';
import { numberWithin } from '../ui/numbers.ts';
import { Ruler } from '../ui/ruler.tsx';

const FADERS = [
  { controller: CONTROLLER.dynamics, label: 'Fader 1: dynamics', rest: 80 },
  { controller: CONTROLLER.expression, label: 'Fader 2: expression', rest: 127 },
  { controller: CONTROLLER.vibrato, label: 'Fader 3: vibrato', rest: 64 },
] as const;

/** A simulated MIDI keyboard: keys, wheel, faders and pedal send the same bytes as a connected one. */
export function StandInPanel({ onClose }: { onClose: () => void }) {
  const ridden = usePerformance((state) => state.ridden);
  const held = usePerformance((state) => state.held);
  const [bend, setBend] = useState(0);
  const [pedal, setPedal] = useState(false);
  const [octave, setOctave] = useState(3);
  const low = 12 * (octave + 1);
  const sendBend = (value: number) => {
    const wire = Math.min(16383, Math.max(0, Math.round(8192 + value * 8191)));
    sendFrom(STAND_IN, [0xe0, wire & 127, wire >> 7]);
    setBend(value);
  };
  const sendPedal = () => {
    sendFrom(STAND_IN, [0xb0, CONTROLLER.pedal, pedal ? 0 : 127]);
    setPedal(!pedal);
  };
  return (
    <section
      aria-label="Stand-in keyboard"
      className="flex items-stretch gap-4 border-t border-rule bg-ground px-3.5 py-2"
    >
      <div className="w-[190px] shrink-0">
        <Ruler
          compact
          label="Wheel"
          value={bend}
          low={-1}
          high={1}
          rest={0}
          step={0.1}
          format={(v) => `${Math.round(v * 200)}`.replace('-', '−')}
          parse={(text) => {
            const cents = numberWithin(-200, 200, 'cents')(text);
            return typeof cents === 'number' ? cents / 200 : cents;
          }}
          unit="cents"
          help="Pitch wheel: bends all sounding notes by up to two semitones and springs back when let go."
          onChange={sendBend}
          onGesture={(phase) => phase === 'end' && sendBend(0)}
        />
        <div className="mt-1 flex gap-1.5">
          <Button pressed={pedal} onClick={sendPedal} title="Sustain pedal (controller 64)">
            Pedal
          </Button>
          <Button onClick={() => setOctave(Math.max(0, octave - 1))} aria-label="Octave down">
            8↓
          </Button>
          <Button onClick={() => setOctave(Math.min(6, octave + 1))} aria-label="Octave up">
            8↑
          </Button>
        </div>
      </div>
      <div className="w-[220px] shrink-0">
        {FADERS.map(({ controller, label, rest }) => (
          <Ruler
            key={controller}
            compact
            label={label}
            value={ridden[controller] ?? rest}
            low={0}
            high={127}
            rest={rest}
            step={4}
            help={`Sends controller ${controller}.`}
            onChange={(value) => sendFrom(STAND_IN, [0xb0, controller, Math.round(value)])}
          />
        ))}
      </div>
      <div className="min-w-0 flex-1">
        <Keyboard
          low={low}
          high={low + 36}
          middleC={4}
          held={held}
          onPress={(key, velocity, atMs) => sendFrom(STAND_IN, [0x90, key, velocity], atMs)}
          onRelease={(key, atMs) => sendFrom(STAND_IN, [0x80, key, 0], atMs)}
        />
      </div>
      <button
        type="button"
        onClick={onClose}
        aria-label="Put the stand-in keyboard away"
        className="grid size-6 place-items-center text-ink-2"
      >
        <X size={15} />
      </button>
    </section>
  );
}
