import type { FieldErrors, Path, UseFormRegister } from 'react-hook-form';
import type { NewPersonShape } from '#api/index.ts';
import { TextField } from '../ui/form.tsx';

/** Name, address and password of somebody new, in any form that asks for them. */
export function NewPersonFields<T extends NewPersonShape>({
  register,
  errors,
}: {
  register: UseFormRegister<T>;
  errors: FieldErrors<T>;
}) {
  const sentence = (name: keyof NewPersonShape) => errors[name]?.message as string | undefined;
  return (
    <>
      <TextField
        label="Your name"
        autoComplete="name"
        hint="As colleagues see it"
        error={sentence('name')}
        {...register('name' as Path<T>)}
      />
      <TextField
        label="E-mail address"
        type="email"
        autoComplete="username"
        hint="You sign in with it; nothing is sent to it"
        error={sentence('email')}
        {...register('email' as Path<T>)}
      />
      <TextField
        label="Password"
        type="password"
        autoComplete="new-password"
        hint="12 characters or more; several words are easy to keep in mind"
        error={sentence('password')}
        {...register('password' as Path<T>)}
      />
    </>
  );
}
