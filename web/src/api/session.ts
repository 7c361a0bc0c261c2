import { useQuery } from '@tanstack/react-query';
import { api, body, keepRequestToken } from './client';
import type { Me } from './types';

export const sessionKey = ['session'];

export async function readSession(): Promise<Me> {
  const me = await body(api.GET('/api/me'));
  keepRequestToken(me.requestToken);
  return me;
}

export function useSession() {
  return useQuery({ queryKey: sessionKey, queryFn: readSession, staleTime: Infinity });
}

/** Whether the person may do something; the server decides in the end. */
export function useMay(permission: string): boolean {
  return useSession().data?.permissions.includes(permission) ?? false;
}
