import { useState } from 'react';
import type { SessionInfo } from '#api/index.ts';
import { signIn } from '../state/session.ts';
import { Notice } from '../ui/heading.tsx';
import { Entrance } from './entrance.tsx';
import { usePageTitle } from './page-title.ts';
import { SignInForm } from './sign-in-form.tsx';

const MAY: Record<string, string> = {
  owner: 'may do everything',
  editor: 'may write and mix',
  viewer: 'may look and listen',
};

/** Sign-in, with the demo people in one press where the demo is served. */
export function SignInPage({ demo }: { demo: SessionInfo['demo'] }) {
  usePageTitle('Sign in');
  const [trouble, setTrouble] = useState<string>();
  const [busy, setBusy] = useState(false);
  const enter = (who: { email: string; password: string }) => {
    setBusy(true);
    setTrouble(undefined);
    signIn(who.email, who.password)
      .catch((error: Error) => setTrouble(error.message))
      .finally(() => setBusy(false));
  };
  return (
    <Entrance wide={demo.length > 0}>
      <p className="mt-2 max-w-[52ch] text-ink-2">
        Hear your libraries, give every technique its place, balance the microphones, and write mock-ups that
        sound performed.
      </p>
      <div className={`mt-7 grid gap-10 ${demo.length > 0 ? 'sm:grid-cols-2' : ''}`}>
        <section aria-labelledby="sign-in">
          <h1 id="sign-in" className="mb-2 font-serif text-lg font-semibold">
            Sign in
          </h1>
          <SignInForm />
        </section>
        {demo.length > 0 && (
          <section aria-labelledby="demo-people">
            <h2 id="demo-people" className="mb-2 font-serif text-lg font-semibold">
              Saltglass Music, the demo studio
            </h2>
            <ul className="space-y-2">
              {demo.map((person) => (
                <li key={person.email}>
                  <button
                    type="button"
                    disabled={busy}
                    onClick={() => enter(person)}
                    className="w-full rounded-md border border-rule bg-raised px-3 py-2 text-left hover:border-cool"
                  >
                    <span className="font-semibold">{person.name}</span>
                    <span className="block text-ink-2">
                      {person.role}: {MAY[person.role]}
                    </span>
                  </button>
                </li>
              ))}
            </ul>
            <div role="alert">{trouble && <Notice tone="warm">{trouble}</Notice>}</div>
          </section>
        )}
      </div>
    </Entrance>
  );
}
