import { useState } from 'react';
import { SignInShape } from '#api/index.ts';
import { signIn } from '../state/session.ts';
import { Button } from '../ui/button.tsx';
import { TextField, useShapeForm } from '../ui/form.tsx';
import { Notice } from '../ui/heading.tsx';

/** Address and password. @param email filled in for somebody who is known already */
export function SignInForm({ email = '', autoFocus = false }: { email?: string; autoFocus?: boolean }) {
  const form = useShapeForm(SignInShape, { email, password: '' });
  const [trouble, setTrouble] = useState<string>();
  const { errors, isSubmitting } = form.formState;
  const submit = form.handleSubmit(async (who) => {
    setTrouble(undefined);
    await signIn(who.email, who.password).catch((error: Error) => setTrouble(error.message));
  });
  return (
    <form onSubmit={(event) => void submit(event)} aria-label="Sign in" noValidate>
      <TextField
        label="Address"
        type="email"
        autoComplete="username"
        error={errors.email && 'Type your e-mail address.'}
        {...form.register('email')}
      />
      <TextField
        label="Password"
        type="password"
        autoComplete="current-password"
        autoFocus={autoFocus}
        error={errors.password && 'Type your password.'}
        {...form.register('password')}
      />
      <Button type="submit" look="main" disabled={isSubmitting}>
        {isSubmitting ? 'Signing in …' : 'Sign in'}
      </Button>
      <div role="alert">{trouble && <Notice tone="warm">{trouble}</Notice>}</div>
    </form>
  );
}
