import { useMutation, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { ReplyRow, ReplyShow } from '@/api/types';
import { notify } from '@/parts/Notices';

export function useReplies(show: ReplyShow) {
  return useQuery({
    queryKey: ['replies', show],
    queryFn: () => body(api.GET('/api/replies', { params: { query: { show } } })),
  });
}

/** What a checker can do with a reply. */
export function useReplyActs(reply: ReplyRow) {
  const path = { params: { path: { deedId: reply.deedId } } };
  const takeBack = useMutation({ mutationFn: () => api.POST('/api/replies/{deedId}/take-back', path) });
  return {
    takeBack,
    send: useMutation({
      mutationFn: () => api.POST('/api/replies/{deedId}/send', path),
      onSuccess: () => notify({ text: `The reply to ${reply.to} is on its way.` }),
    }),
    doNotSend: useMutation({
      mutationFn: () => api.POST('/api/replies/{deedId}/do-not-send', path),
      onSuccess: () =>
        notify({ text: `The reply to ${reply.to} will not be sent.`, undo: () => takeBack.mutate() }),
    }),
    change: useMutation({
      mutationFn: (text: { to: string; subject: string; body: string }) =>
        api.PUT('/api/replies/{deedId}', { ...path, body: text }),
      onSuccess: () => notify({ text: 'The text is saved. The reply still waits.' }),
    }),
  };
}
