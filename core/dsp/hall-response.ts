/** Impulse responses of a hall, all of equal length, at the engine's rate. */
export interface HallResponse {
  /** What is heard at the left of what is sent from the left, and at the right of the right. */
  left: Float32Array;
  right: Float32Array;
  /** What is heard at the other side; nothing unless given. */
  cross?: { leftToRight: Float32Array; rightToLeft: Float32Array };
  /** Frame at which the early part ends and the tail begins. */
  earlyFrames: number;
}
