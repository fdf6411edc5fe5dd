/** The engine's sample rate in hertz. */
export const ENGINE_RATE = 48000;
