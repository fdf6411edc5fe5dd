import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { NewPersonShape, type InvitationOffer, type SessionInfo } from '#api/index.ts';
import { request } from '../state/api-client.ts';
import { signOut, useSession } from '../state/session.ts';
import { Button } from '../ui/button.tsx';
import { dayAndTime } from '../ui/day-and-time.ts';
import { useShapeForm } from '../ui/form.tsx';
import { Notice } from '../ui/heading.tsx';
import { Entrance } from './entrance.tsx';
import { NewPersonFields } from './new-person-fields.tsx';
import { usePageTitle } from './page-title.ts';
import { SignInForm } from './sign-in-form.tsx';

/** Where an invitation's link leads: join as somebody new, or as who one is already. */
export function JoinPage({ token }: { token: string }) {
  const user = useSession((state) => state.info?.user);
  const offer = useQuery({
    queryKey: ['invitation', token],
    queryFn: () => request<InvitationOffer>('GET', `/invitations/${token}`),
  });
  usePageTitle('Join', offer.data?.studio);
  const [trouble, setTrouble] = useState<string>();
  const [known, setKnown] = useState(false);
  const join = (said: object) =>
    request<SessionInfo>('POST', '/join', { token, ...said })
      .then(() => location.assign('/'))
      .catch((error: Error) => setTrouble(error.message));
  return (
    <Entrance>
      {offer.isPending ? (
        <p className="mt-5 text-ink-2">Looking at the invitation …</p>
      ) : offer.isError ? (
        <div role="alert" className="mt-5">
          <Notice tone="warm">{offer.error.message}</Notice>
          <a href="/" className="text-cool underline">
            To the sign-in page
          </a>
        </div>
      ) : (
        <>
          <h1 className="mt-5 font-serif text-lg font-semibold">Join {offer.data.studio}</h1>
          <p className="mt-1 mb-4 text-ink-2">
            You are invited as {offer.data.role === 'viewer' ? 'a viewer' : `an ${offer.data.role}`}. The link
            can be used once, until {dayAndTime(offer.data.expires)}.
          </p>
          {user ? (
            <>
              <p className="mb-3">
                You are signed in as <b>{user.name}</b>.
              </p>
              <div className="flex gap-2">
                <Button look="main" onClick={() => void join({})}>
                  Join as {user.name}
                </Button>
                <Button onClick={() => void signOut()}>Somebody else</Button>
              </div>
            </>
          ) : known ? (
            <SignInForm autoFocus />
          ) : (
            <JoinAsNew onJoin={join} />
          )}
          {!user && (
            <button type="button" className="mt-3 text-cool underline" onClick={() => setKnown(!known)}>
              {known ? 'I am new here' : 'I have a password here already'}
            </button>
          )}
          <div role="alert">{trouble && <Notice tone="warm">{trouble}</Notice>}</div>
        </>
      )}
    </Entrance>
  );
}

function JoinAsNew({ onJoin }: { onJoin: (person: NewPersonShape) => Promise<void> }) {
  const form = useShapeForm(NewPersonShape, { name: '', email: '', password: '' });
  const submit = form.handleSubmit(onJoin);
  return (
    <form onSubmit={(event) => void submit(event)} aria-label="Join" noValidate>
      <NewPersonFields register={form.register} errors={form.formState.errors} />
      <Button type="submit" look="main" disabled={form.formState.isSubmitting}>
        Join the studio
      </Button>
    </form>
  );
}
