/** Identifier of a technique in the house vocabulary, for example `long` or `staccato`. */
export type ArticulationId = string;
