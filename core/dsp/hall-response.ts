/** Impulse responses of a hall, left and right, equal length, at the engine's rate. */
export interface HallResponse {
  left: Float32Array;
  right: Float32Array;
  /** Frame at which the early part ends and the tail begins. */
  earlyFrames: number;
}
