import { SOURCE } from '../catalogue/index.ts';
import { CONTROLLER, controllerRest } from '../music/index.ts';

/** Controllers at a note's start, as far as leads depend on them. */
export interface Touch {
  velocity: number;
  dynamics: number;
  vibrato: number;
}

/** Value of a controller or other source for a note that begins with this touch, 0…127. */
export function sourceValue(controller: number, touch: Touch): number {
  if (controller === CONTROLLER.dynamics) return touch.dynamics;
  if (controller === CONTROLLER.vibrato) return touch.vibrato;
  if (controller === SOURCE.velocity) return touch.velocity;
  return controllerRest(controller);
}
