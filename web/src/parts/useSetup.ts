import { useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';

/** Everything that can be chosen by name: queues, lists, templates, destinations, addresses. */
export function useSetup() {
  return useQuery({ queryKey: ['setup'], queryFn: () => body(api.GET('/api/setup')), staleTime: 60000 });
}
