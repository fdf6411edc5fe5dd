import { create } from 'zustand';
import type { SessionInfo, StudioOverview } from '#api/index.ts';
import { request, setGuard, whenSignedOut } from './api-client.ts';

interface SessionState {
  info: SessionInfo | undefined;
  overview: StudioOverview | undefined;
  /** The session ended while somebody was working; what they see stays until they are back. */
  over: boolean;
}

/** Who is signed in, and what their studio has. */
export const useSession = create<SessionState>(() => ({
  info: undefined,
  overview: undefined,
  over: false,
}));

/** What is to be done when a session goes on, for example sending what waits. Set once by the shell. */
let goOn: () => void = () => undefined;
let tellTabs: () => void = () => undefined;

/** Says what happens when a session goes on after its end, and how other tabs are told of a change. */
export function onSession(handlers: { goOn(): void; tellTabs(): void }): void {
  ({ goOn, tellTabs } = handlers);
}

/** Asks who is signed in. @throws RequestFailure */
export async function loadSession(): Promise<void> {
  accept(await request<SessionInfo>('GET', '/session'));
}

/**
 * Takes what the server says of the session. While somebody works here, only they go on in this page: for somebody
 * else, or for another studio, the page begins anew, and what waited stays in this browser for its owner.
 */
export function accept(next: SessionInfo): void {
  const { info, over } = useSession.getState();
  if (!info?.user) {
    setGuard(next.guard);
    useSession.setState({ info: next, over: false });
    return;
  }
  if (!next.user) {
    useSession.setState({ over: true });
    return;
  }
  if (next.user.id !== info.user.id || next.studio?.id !== info.studio?.id) {
    location.assign('/');
    return;
  }
  setGuard(next.guard);
  useSession.setState({ info: next, over: false });
  if (over) goOn();
}

/** Signs in, for the first time or again. @throws RequestFailure with the server's sentence */
export async function signIn(email: string, password: string): Promise<void> {
  accept(await request<SessionInfo>('POST', '/session', { email, password }));
  tellTabs();
}

/** Ends the session, here and in the other tabs. */
export async function signOut(): Promise<void> {
  await request('DELETE', '/session');
  tellTabs();
  location.assign('/');
}

/** Works in another studio from now on. */
export async function chooseStudio(studioId: string): Promise<void> {
  await request('POST', '/session/studio', { studioId });
  tellTabs();
  location.assign('/');
}

/** Asks what the studio has. @throws RequestFailure */
export async function loadOverview(): Promise<StudioOverview> {
  const overview = await request<StudioOverview>('GET', '/studio');
  useSession.setState({ overview });
  return overview;
}

/** True when the signed-in person may change things. */
export function useMayEdit(): boolean {
  return useSession(mayEdit);
}

/** Whether the person who is signed in may change anything, for what is no component. */
export function mayEdit({ info }: Pick<SessionState, 'info'> = useSession.getState()): boolean {
  return info?.studio?.role !== undefined && info.studio.role !== 'viewer';
}

whenSignedOut({
  over: () => {
    if (useSession.getState().info?.user) useSession.setState({ over: true });
  },
  renew: async () => {
    const before = useSession.getState().info?.user?.id;
    const next = await request<SessionInfo>('GET', '/session');
    accept(next);
    return next.user !== null && next.user.id === before;
  },
});
