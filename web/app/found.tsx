import { useState } from 'react';
import { FoundShape, type SessionInfo } from '#api/index.ts';
import { request } from '../state/api-client.ts';
import { accept } from '../state/session.ts';
import { Button } from '../ui/button.tsx';
import { TextField, useShapeForm } from '../ui/form.tsx';
import { Notice } from '../ui/heading.tsx';
import { Entrance } from './entrance.tsx';
import { NewPersonFields } from './new-person-fields.tsx';
import { usePageTitle } from './page-title.ts';

/** First of all on an empty server: a studio and its owner. */
export function FoundPage({ asksCode }: { asksCode: boolean }) {
  usePageTitle('Found a studio');
  const form = useShapeForm(FoundShape, { studio: '', name: '', email: '', password: '' });
  const [trouble, setTrouble] = useState<string>();
  const { errors, isSubmitting } = form.formState;
  const submit = form.handleSubmit(async (said) => {
    setTrouble(undefined);
    await request<SessionInfo>('POST', '/found', said)
      .then(accept)
      .catch((error: Error) => setTrouble(error.message));
  });
  return (
    <Entrance>
      <h1 className="mt-5 font-serif text-lg font-semibold">Found your studio</h1>
      <p className="mt-1 mb-4 text-ink-2">
        Nobody is here yet. Name the studio and yourself as its owner; then invite the others.
      </p>
      <form onSubmit={(event) => void submit(event)} aria-label="Found your studio" noValidate>
        <TextField
          label="Name of the studio"
          error={errors.studio?.message}
          autoFocus
          {...form.register('studio')}
        />
        <NewPersonFields register={form.register} errors={errors} />
        {asksCode && (
          <TextField
            label="Code"
            autoComplete="one-time-code"
            hint="Shown where the server was started"
            error={errors.code?.message}
            {...form.register('code')}
          />
        )}
        <Button type="submit" look="main" disabled={isSubmitting}>
          Found the studio
        </Button>
        <div role="alert">{trouble && <Notice tone="warm">{trouble}</Notice>}</div>
      </form>
    </Entrance>
  );
}
