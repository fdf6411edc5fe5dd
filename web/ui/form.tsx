import { classValidatorResolver } from '@hookform/resolvers/class-validator';
import { useId, type InputHTMLAttributes, type ReactNode } from 'react';
import {
  useForm,
  type DefaultValues,
  type FieldValues,
  type Resolver,
  type UseFormReturn,
} from 'react-hook-form';

/**
 * Hook: a form over a shape that the server checks too, so that both say the same sentences.
 * @param complete adds what is decided outside of the fields before the shape is checked
 */
export function useShapeForm<T extends FieldValues>(
  shape: new () => T,
  defaultValues: DefaultValues<T>,
  complete: (values: T) => T = (values) => values,
): UseFormReturn<T> {
  const check = classValidatorResolver(shape as never) as unknown as Resolver<T>;
  return useForm<T>({
    resolver: (values, context, options) => check(complete(values), context, options),
    defaultValues,
    mode: 'onSubmit',
    reValidateMode: 'onChange',
  });
}

/** A labelled field with what is wrong with it beneath. */
export function TextField({
  label,
  error,
  hint,
  ...rest
}: InputHTMLAttributes<HTMLInputElement> & { label: string; error?: string; hint?: ReactNode }) {
  const id = useId();
  return (
    <div className="mb-3">
      <label htmlFor={id} className="block">
        {label}
      </label>
      <input
        id={id}
        aria-invalid={error !== undefined}
        aria-describedby={error || hint ? `${id}-about` : undefined}
        className="mt-0.5 block w-full rounded-md border border-rule bg-raised px-2 py-1.5 text-ink aria-[invalid=true]:border-warm"
        {...rest}
      />
      {(error || hint) && (
        <p
          id={`${id}-about`}
          role={error ? 'alert' : undefined}
          className={`mt-0.5 text-xs ${error ? 'text-warm' : 'text-ink-3'}`}
        >
          {error ?? hint}
        </p>
      )}
    </div>
  );
}
