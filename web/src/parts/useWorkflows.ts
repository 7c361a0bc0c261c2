import { useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';

/** All workflows, for choosing one. */
export const useWorkflows = () =>
  useQuery({ queryKey: ['workflows'], queryFn: () => body(api.GET('/api/workflows')) });
