import { QueryClient, useMutation, useQuery, type UseQueryResult } from '@tanstack/react-query';
import { toast } from 'sonner';
import type { HistoryEntry, InvitationInfo, MemberInfo, DocumentKind } from '#api/index.ts';
import { request, RequestFailure } from './api-client.ts';

const SECONDS = 1000;

/** What was asked of the server and is shown: asked again when the stream says that it changed. */
export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      // A server on this machine answers without any network.
      networkMode: 'always',
      staleTime: 30 * SECONDS,
      // An answer in words will be the same the next time; only silence is worth another try.
      retry: (count, error) => error instanceof RequestFailure && error.status === 0 && count < 3,
    },
  },
});

/** Hook: members of the studio. */
export function useMembers(): UseQueryResult<MemberInfo[]> {
  return useQuery({ queryKey: ['members'], queryFn: () => request<MemberInfo[]>('GET', '/members') });
}

/** Hook: invitations that can still be accepted; owners may ask. */
export function useInvitations(enabled: boolean): UseQueryResult<InvitationInfo[]> {
  return useQuery({
    queryKey: ['invitations'],
    queryFn: () => request<InvitationInfo[]>('GET', '/invitations'),
    enabled,
  });
}

/** Hook: latest lines of a document's history. @param revision asked anew when it changes */
export function useHistory(
  kind: DocumentKind,
  id: string | undefined,
  revision: number | undefined,
): UseQueryResult<HistoryEntry[]> {
  return useQuery({
    queryKey: ['history', kind, id, revision],
    queryFn: () => request<HistoryEntry[]>('GET', `/documents/${kind}/${id ?? ''}/history`),
    enabled: id !== undefined,
    placeholderData: (before) => before,
  });
}

/** Hook: something that is done on the server; failures are told in their sentence unless a form tells them. */
export function useAct<Input, Output>(
  act: (input: Input) => Promise<Output>,
  options: { changes?: readonly string[]; quiet?: boolean; done?: (output: Output) => void } = {},
) {
  return useMutation({
    mutationFn: act,
    onSuccess: async (output) => {
      for (const key of options.changes ?? []) await queries.invalidateQueries({ queryKey: [key] });
      options.done?.(output);
    },
    onError: (error: Error) => {
      if (!options.quiet) toast.error(error.message);
    },
  });
}
