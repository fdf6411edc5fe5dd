import {
  AheadWords,
  AheadWriter,
  Players,
  Rings,
  SoundMemory,
  type WebAssemblyMemory,
} from '#core/engine/index.ts';
import type { FromAhead, ToAhead } from './messages.ts';
import { Seats } from './seats.ts';

/** Blocks rendered before messages are looked at. */
const AT_ONCE = 4;
/** Longest wait for the reader before messages are looked at. */
const WAIT_MS = 4;
/** How often what tracks cost, and what was given up, is told. */
const COSTS_MS = 1000;
const GIVEN_UP_MS = 50;

const tell = (message: FromAhead) => self.postMessage(message);

/** Renders some tracks of what is played ahead of the audio thread. */
class Forerunner {
  private readonly players: Players;
  private readonly rings: Rings;
  private readonly writer: AheadWriter;
  private readonly words: AheadWords;
  private readonly seats: Seats;
  private readonly turns = new MessageChannel();
  private playing = false;
  /** Whether the next turn is on its way: there is one chain of them. */
  private turning = false;
  private costsToldAt = 0;
  private givenUpToldAt = 0;

  constructor({ words, index, memory, room }: Extract<ToAhead, { kind: 'begin' }>) {
    const sound = SoundMemory.within(memory as WebAssemblyMemory, room);
    this.players = new Players(undefined, sound);
    this.rings = new Rings(sound);
    this.words = new AheadWords(words);
    this.writer = new AheadWriter(this.players, this.words, index, this.rings, sound);
    this.seats = new Seats(
      this.players,
      sound,
      () => !this.playing,
      (voices) => this.writer.setLimit(voices),
      (number) => tell({ kind: 'passed', number }),
    );
    this.turns.port1.onmessage = () => {
      this.turning = false;
      this.work();
    };
  }

  take(message: ToAhead): void {
    const { players } = this;
    switch (message.kind) {
      case 'begin':
        break;
      case 'rings':
        for (const address of message.rings) this.rings.add(address);
        break;
      case 'own':
        this.writer.own(message.tracks);
        break;
      case 'play':
        this.writer.begin(message.epoch, message.events, message.block);
        this.playing = true;
        if (!this.turning) this.work();
        break;
      case 'feed':
        if (this.playing) players.addEvents(message.events);
        break;
      case 'replan':
        if (!this.playing) break;
        for (const track of message.tracks) players.dropEvents(track, message.frame);
        players.addEvents(message.events);
        break;
      case 'ride':
        for (const event of message.events) players.apply(event);
        break;
      case 'rest':
        this.playing = false;
        break;
      default:
        this.seats.take(message);
    }
  }

  /** Renders what there is room for, waits a little for more, and lets messages have their turn. */
  private work(): void {
    if (!this.playing) return;
    const { writer, words } = this;
    for (let i = 0; i < AT_ONCE && writer.hasRoom; i++) writer.render(() => performance.now());
    this.report();
    if (!writer.hasRoom) words.waitFrom(words.read, WAIT_MS);
    this.turning = true;
    this.turns.port2.postMessage(0);
  }

  private report(): void {
    const now = performance.now();
    if (now - this.givenUpToldAt > GIVEN_UP_MS) {
      const givenUp = this.players.takeGivenUp();
      if (givenUp) {
        this.givenUpToldAt = now;
        tell({ kind: 'givenUp', givenUp });
      }
    }
    if (now - this.costsToldAt < COSTS_MS) return;
    this.costsToldAt = now;
    tell({ kind: 'costs', costs: this.writer.takeCosts() });
  }
}

let forerunner: Forerunner | undefined;

self.onmessage = ({ data }: MessageEvent<ToAhead>) => {
  if (data.kind === 'begin') forerunner = new Forerunner(data);
  else forerunner?.take(data);
};
