import type { ValidationError } from 'class-validator';

/** What is wrong with the first thing that does not fit, as a sentence that names it. */
export function validationSentence(error: ValidationError, path = error.property): string {
  const [child] = error.children ?? [];
  if (!error.constraints && child) return validationSentence(child, `${path}.${child.property}`);
  const [[rule, message]] = Object.entries(error.constraints ?? { unknown: '' });
  // Sentences of our own begin with a capital; the library's begin with the field's name.
  if (/^[A-Z]/.test(message)) return message;
  if (rule === 'whitelistValidation') return `There is no field “${path}” here.`;
  const detail = rule === 'matches' ? '' : message.replace(error.property, '').trim();
  return detail ? `“${path}” ${detail}.` : `“${path}” is not what it should be.`;
}
