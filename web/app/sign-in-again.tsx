import { Dialog as Radix } from 'radix-ui';
import { lazy, Suspense, useEffect } from 'react';
import { useDocuments } from '../state/documents.ts';
import { useSession } from '../state/session.ts';

// Fetched as soon as the page stands, so that it is here when a session ends; it need not hold the first view up.
const form = () => import('./sign-in-form.tsx');
const SignInForm = lazy(async () => ({ default: (await form()).SignInForm }));

/** Over the page when the session has ended: what is on the page stays, and edits wait for their person. */
export function SignInAgain() {
  useEffect(() => {
    form().catch(() => undefined);
  }, []);
  const over = useSession((state) => state.over);
  const user = useSession((state) => state.info?.user);
  const saves = useDocuments((state) => state.saves);
  const waiting = Object.values(saves).reduce(
    (sum, save) => sum + (save && 'left' in save ? save.left : 0),
    0,
  );
  if (!over) return null;
  return (
    <Radix.Root open>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-black/30" />
        <Radix.Content className="fixed top-1/2 left-1/2 z-50 w-[400px] max-w-[96vw] -translate-x-1/2 -translate-y-1/2 border border-rule bg-sheet p-6">
          <Radix.Title className="font-serif text-xl font-semibold">Sign in again</Radix.Title>
          <Radix.Description className="mt-1 mb-4 text-ink-2">
            Your session has ended.{' '}
            {waiting > 0
              ? `${waiting === 1 ? 'One edit waits' : `${waiting} edits wait`} in this browser and will be sent when you are back.`
              : 'Nothing is lost; go on where you were.'}
          </Radix.Description>
          <Suspense>
            <SignInForm email={user?.email} autoFocus />
          </Suspense>
          <p className="mt-3 text-xs text-ink-3">
            Signing in as somebody else opens the page anew; edits of {user?.name} stay here until they are
            back.
          </p>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
