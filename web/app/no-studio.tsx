import { signOut, useSession } from '../state/session.ts';
import { Button } from '../ui/button.tsx';
import { Entrance } from './entrance.tsx';
import { usePageTitle } from './page-title.ts';

/** For somebody who was taken out of their last studio. */
export function NoStudio() {
  usePageTitle('No studio');
  const name = useSession((state) => state.info?.user?.name);
  return (
    <Entrance>
      <h1 className="mt-5 font-serif text-lg font-semibold">You belong to no studio</h1>
      <p className="mt-1 mb-4 text-ink-2">
        You are signed in as {name}, but no studio has you as a member any more. Ask an owner for an
        invitation and open its link here.
      </p>
      <Button onClick={() => void signOut()}>Sign out</Button>
    </Entrance>
  );
}
