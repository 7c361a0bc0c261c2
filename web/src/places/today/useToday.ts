import { useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';

export function useToday() {
  return useQuery({
    queryKey: ['today'],
    queryFn: () => body(api.GET('/api/today')),
    refetchInterval: 60000,
  });
}
