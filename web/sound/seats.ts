import {
  addZones,
  attachAudio,
  emptyInstrument,
  type Players,
  type PreparedInstrument,
  type SoundMemory,
} from '#core/engine/index.ts';
import type { EngineTrackSetup, ToPlayers } from './messages.ts';

/** Voices that may be fading beside those that sound. */
const FADING_VOICES = 96;

/** Instruments and tracks of a thread that plays, as the page tells them. */
export class Seats {
  /** Tracks as they were last told. */
  setup: readonly EngineTrackSetup[] = [];
  private readonly instruments = new Map<string, PreparedInstrument>();
  /** Instruments some of whose zones are still to come. */
  private readonly coming = new Map<string, PreparedInstrument>();

  /**
   * @param settles whether a track that is given an instrument takes its mix at once
   * @param limit sets how many voices may sound
   */
  constructor(
    private readonly players: Players,
    private readonly sound: SoundMemory,
    private readonly settles: () => boolean,
    private readonly limit: (voices: number) => void,
    private readonly passed: (number: number) => void,
  ) {}

  take(message: ToPlayers): void {
    switch (message.kind) {
      case 'instrument':
        this.coming.set(message.instrument.id, emptyInstrument(message.instrument));
        break;
      case 'zones': {
        const prepared = this.coming.get(message.instrumentId);
        if (prepared) addZones(prepared, message.index, message.zones, message.samples);
        break;
      }
      case 'ready': {
        const prepared = this.coming.get(message.instrumentId);
        if (!prepared) break;
        this.coming.delete(message.instrumentId);
        this.instruments.set(message.instrumentId, prepared);
        this.setTracks(this.setup);
        break;
      }
      case 'audio': {
        const prepared = this.instruments.get(message.instrumentId);
        if (prepared) attachAudio(prepared, message.audio, this.sound);
        break;
      }
      case 'gone': {
        const gone = message.ids.map((id) => [id, null] as const);
        for (const prepared of this.instruments.values()) attachAudio(prepared, gone, this.sound);
        break;
      }
      case 'drop':
        this.instruments.delete(message.instrumentId);
        this.coming.delete(message.instrumentId);
        break;
      case 'room':
        this.sound.add(message.room);
        break;
      case 'tracks':
        this.setTracks(message.tracks);
        break;
      case 'mix': {
        const { track, mix } = message;
        this.setup = this.setup.map((one, i) => (i === track ? { ...one, mix } : one));
        this.players.tracks[track]?.setMix(mix, this.players.rate);
        break;
      }
      case 'limit':
        this.limit(message.voices);
        this.players.prepareVoices(message.voices + FADING_VOICES);
        break;
    }
    if ('number' in message && message.number !== undefined) this.passed(message.number);
  }

  private setTracks(setup: readonly EngineTrackSetup[]): void {
    this.setup = setup;
    const { players } = this;
    players.ensureTracks(setup.length);
    setup.forEach(({ instrumentId, mix }, i) => {
      const track = players.tracks[i];
      const instrument = instrumentId === null ? null : (this.instruments.get(instrumentId) ?? null);
      const fresh = track.instrument !== instrument;
      if (fresh) track.setInstrument(instrument);
      track.setMix(mix, players.rate);
      // A track that has never sounded takes its mix at once instead of gliding from unity.
      if (fresh && this.settles()) track.reset();
    });
  }
}
