import { plainToInstance } from 'class-transformer';
import { validate } from 'class-validator';
import { FarloError } from '#core/errors/index.ts';
import { validationSentence } from '../validation-sentence.ts';

/** A body checked against a shape. @throws FarloError naming the first field that does not fit */
export async function validBody<T extends object>(shape: new () => T, body: unknown): Promise<T> {
  if (typeof body !== 'object' || body === null || Array.isArray(body))
    throw new FarloError('request.invalid', 'The request has no body.');
  const instance = plainToInstance(shape, body);
  const errors = await validate(instance, { whitelist: true, forbidNonWhitelisted: true });
  if (errors.length > 0) throw new FarloError('request.invalid', validationSentence(errors[0]));
  return instance;
}
