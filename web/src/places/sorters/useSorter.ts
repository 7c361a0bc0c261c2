import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { SorterSettings, SorterView } from '@/api/types';
import { notify } from '@/parts/Notices';

/** A sorter; asked again while it is being trained. */
export function useSorter(id: number) {
  return useQuery({
    queryKey: ['sorters', id],
    queryFn: () => body(api.GET('/api/sorters/{id}', { params: { path: { id } } })) as Promise<SorterView>,
    refetchInterval: (q) => (q.state.data?.due || q.state.data?.training ? 700 : false),
  });
}

/** Saves changed settings as the number in hand, with a way back. */
export function useSaveSettings(view: SorterView) {
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: async ({ settings }: { settings: SorterSettings; undone?: boolean }) => {
      const path = { params: { path: { id: view.id } } };
      const now = (await body(api.GET('/api/sorters/{id}', path))) as SorterView;
      await api.PUT('/api/sorters/{id}/settings', {
        ...path,
        body: { settings, number: now.number, revision: now.revision },
      });
      return now.settings;
    },
    onSuccess: (before, { undone }) => {
      void client.invalidateQueries({ queryKey: ['sorters'] });
      if (!undone)
        notify({
          text: 'Saved. It is trained again.',
          undo: () => save.mutate({ settings: before, undone: true }),
        });
    },
  });
  return save;
}
