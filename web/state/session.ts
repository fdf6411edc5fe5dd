import { create } from 'zustand';
import type { SessionInfo, StudioOverview } from '#api/index.ts';
import { request, setGuard } from './api-client.ts';

interface SessionState {
  info: SessionInfo | undefined;
  overview: StudioOverview | undefined;
  /** Asks who is signed in. */
  load(): Promise<void>;
  signIn(email: string, password: string): Promise<void>;
  signOut(): Promise<void>;
  loadOverview(): Promise<void>;
}

/** Who is signed in, and what their studio has. */
export const useSession = create<SessionState>((set) => ({
  info: undefined,
  overview: undefined,
  load: async () => {
    const info = await request<SessionInfo>('GET', '/session');
    setGuard(info.guard);
    set({ info });
  },
  signIn: async (email, password) => {
    const info = await request<SessionInfo>('POST', '/session', { email, password });
    setGuard(info.guard);
    set({ info });
  },
  signOut: async () => {
    await request('DELETE', '/session');
    location.assign('/');
  },
  loadOverview: async () => {
    set({ overview: await request<StudioOverview>('GET', '/studio') });
  },
}));

/** True when the signed-in person may change things. */
export function useMayEdit(): boolean {
  return useSession((state) => state.info?.studio?.role !== undefined && state.info.studio.role !== 'viewer');
}
