import type { ArticulationId } from '../music/index.ts';

/** A keyswitch: pressing `key` selects the articulation, for good or while it is held. */
export interface Trigger {
  id: string;
  articulation: ArticulationId;
  key: number;
  hold: 'latching' | 'held';
}

/** What the keys do to the choice of articulation; one per playing track. */
export class TriggerState {
  private latched: ArticulationId;
  private readonly held: { key: number; articulation: ArticulationId }[] = [];
  private byKey = new Map<number, Trigger>();

  constructor(triggers: readonly Trigger[], initial: ArticulationId) {
    this.latched = initial;
    this.setTriggers(triggers);
  }

  /** Takes another set of triggers; the present choice stays. */
  setTriggers(triggers: readonly Trigger[]): void {
    this.byKey = new Map(triggers.map((trigger) => [trigger.key, trigger]));
    this.held.length = 0;
  }

  /** Chooses an articulation as a latching trigger would. */
  select(articulation: ArticulationId): void {
    this.latched = articulation;
  }

  /** Articulation that a note played now gets. */
  get current(): ArticulationId {
    return this.held.at(-1)?.articulation ?? this.latched;
  }

  /** Takes a pressed key; true when it was a trigger and must not sound. */
  press(key: number): boolean {
    const trigger = this.byKey.get(key);
    if (!trigger) return false;
    if (trigger.hold === 'latching') this.latched = trigger.articulation;
    else this.held.push({ key, articulation: trigger.articulation });
    return true;
  }

  /** Takes a released key; true when it was a trigger. */
  release(key: number): boolean {
    if (!this.byKey.has(key)) return false;
    const at = this.held.findIndex((entry) => entry.key === key);
    if (at >= 0) this.held.splice(at, 1);
    return true;
  }
}
