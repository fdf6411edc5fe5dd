import { plainToInstance } from 'class-transformer';
import { validate, type ValidationError } from 'class-validator';
import { FarloError } from '#core/errors/index.ts';

/** A body checked against a shape. @throws FarloError naming the first field that does not fit */
export async function validBody<T extends object>(shape: new () => T, body: unknown): Promise<T> {
  if (typeof body !== 'object' || body === null || Array.isArray(body))
    throw new FarloError('request.invalid', 'The request has no body.');
  const instance = plainToInstance(shape, body);
  const errors = await validate(instance, { whitelist: true, forbidNonWhitelisted: true });
  if (errors.length > 0) throw new FarloError('request.invalid', firstSentence(errors[0]));
  return instance;
}

function firstSentence(error: ValidationError): string {
  if (error.constraints) return Object.values(error.constraints)[0];
  return error.children?.[0]
    ? `${error.property}: ${firstSentence(error.children[0])}`
    : `${error.property} does not fit`;
}
