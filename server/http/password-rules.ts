import { ZxcvbnFactory } from '@zxcvbn-ts/core';
import { adjacencyGraphs, dictionary } from '@zxcvbn-ts/language-common';
import { FarloError } from '#core/errors/index.ts';

/** Weaker than this on the scale of zero to four is guessed within hours. */
const LEAST_SCORE = 3;
const strength = new ZxcvbnFactory({ dictionary, graphs: adjacencyGraphs });

/**
 * Refuses passwords that are guessed soon: common ones, keyboard rows, the person's own name.
 * @param own words an attacker would try first
 * @throws FarloError
 */
export function checkPassword(password: string, own: readonly string[]): void {
  const words = own.flatMap((text) => [text, text.replace(/[\s@.]+/g, ''), ...text.split(/[\s@.]+/)]);
  const { score } = strength.check(password, [...words.filter(Boolean), 'farlo']);
  if (score < LEAST_SCORE)
    throw new FarloError(
      'access.weak-password',
      'This password would be guessed soon. Several unrelated words are strong and easy to keep in mind.',
    );
}
