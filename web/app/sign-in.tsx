import { useState, type FormEvent } from 'react';
import type { SessionInfo } from '#api/index.ts';
import { useSession } from '../state/session.ts';
import { Button } from '../ui/button.tsx';
import { Notice } from '../ui/heading.tsx';

const MAY: Record<string, string> = {
  owner: 'may do everything',
  editor: 'may write and mix',
  viewer: 'may look and listen',
};

/** Sign-in, with the demo people in one press where the demo is served. */
export function SignIn({ demo }: { demo: SessionInfo['demo'] }) {
  const signIn = useSession((state) => state.signIn);
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const [trouble, setTrouble] = useState<string>();
  const [busy, setBusy] = useState(false);
  const enter = (who: { email: string; password: string }) => {
    setBusy(true);
    setTrouble(undefined);
    signIn(who.email, who.password)
      .catch((error: Error) => setTrouble(error.message))
      .finally(() => setBusy(false));
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    enter({ email, password });
  };
  const field = 'mt-0.5 mb-3 block w-full rounded-md border border-rule bg-raised px-2 py-1.5 text-ink';
  return (
    <main className="grid h-full place-items-center">
      <div className="w-[640px] border border-rule bg-sheet p-8">
        <h1 className="font-serif text-[30px] leading-none italic">Farlo</h1>
        <p className="mt-2 max-w-[52ch] text-ink-2">
          Hear your libraries, give every technique its place, balance the microphones, and write mock-ups
          that sound performed.
        </p>
        <div className="mt-7 grid grid-cols-2 gap-10">
          <form onSubmit={submit} aria-label="Sign in">
            <h2 className="mb-2 font-serif text-lg font-semibold">Sign in</h2>
            <label>
              Address
              <input
                className={field}
                type="email"
                autoComplete="username"
                required
                value={email}
                onChange={(event) => setEmail(event.target.value)}
              />
            </label>
            <label>
              Password
              <input
                className={field}
                type="password"
                autoComplete="current-password"
                required
                value={password}
                onChange={(event) => setPassword(event.target.value)}
              />
            </label>
            <Button type="submit" look="main" disabled={busy}>
              Sign in
            </Button>
            <div role="alert">{trouble && <Notice tone="warm">{trouble}</Notice>}</div>
          </form>
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
            </section>
          )}
        </div>
      </div>
    </main>
  );
}
