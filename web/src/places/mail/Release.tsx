import { useMutation, useQueryClient } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import { notify } from '@/parts/Notices';

/** Lets held messages go on as if they had just arrived. */
export function Release({ ids, onDone }: { ids: number[]; onDone: () => void }) {
  const client = useQueryClient();
  const release = useMutation({
    mutationFn: () => body(api.POST('/api/messages/release', { body: { messageIds: ids } })),
    onSuccess: (n) => {
      notify({ text: `${n} ${n === 1 ? 'message goes' : 'messages go'} on.` });
      void client.invalidateQueries({ queryKey: ['mail'] });
      onDone();
    },
    onError: (e) => notify({ text: e.message }),
  });
  return (
    <button className="link" disabled={release.isPending} onClick={() => release.mutate()}>
      Release
    </button>
  );
}
