import { useNavigate, useSearch } from '@tanstack/react-router';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { api, body } from '@/api/client';
import { Empty, Loaded } from '@/parts/States';
import { useKeys } from '@/parts/useKeys';
import { useNow } from '@/parts/useNow';
import { Desk } from './Desk';
import { ItemList } from './ItemList';

/** Queues: the list of what waits on the left, the desk on the right. */
export function Queues() {
  const search = useSearch({ from: '/queues' });
  const navigate = useNavigate({ from: '/queues' });
  const queues = useQuery({ queryKey: ['queues'], queryFn: () => body(api.GET('/api/queues')) });
  const queueId = search.queue ?? queues.data?.find((q) => q.open > 0)?.id ?? queues.data?.[0]?.id;
  const items = useQuery({
    queryKey: ['queues', queueId],
    queryFn: () => body(api.GET('/api/queues/{id}/items', { params: { path: { id: queueId! } } })),
    enabled: queueId !== undefined,
    placeholderData: (last, query) => (query?.queryKey[1] === queueId ? last : undefined),
  });
  const show = search.show ?? 'open';
  const shown = useMemo(
    () =>
      (items.data?.items ?? []).filter((i) =>
        show === 'waiting' ? i.state === 'Waiting' : show === 'mine' ? i.mine : i.state === 'Open',
      ),
    [items.data, show],
  );
  const at = shown.findIndex((i) => i.id === search.item);
  const chosen = at >= 0 ? shown[at] : search.item === undefined ? shown[0] : undefined;
  const index = chosen ? shown.indexOf(chosen) : -1;
  const open = (item: number | undefined) => void navigate({ search: { ...search, queue: queueId, item } });
  useKeys({
    ArrowDown: () => open(shown[Math.min(index + 1, shown.length - 1)]?.id),
    ArrowUp: () => open(shown[Math.max(index - 1, 0)]?.id),
  });
  const now = useNow();
  return (
    <div className="grid h-full grid-cols-[372px_minmax(0,1fr)]">
      <section aria-label="Queue" className="flex min-h-0 flex-col border-r border-line">
        <Loaded query={queues}>
          {(all) =>
            all.length === 0 ? (
              <div className="px-4">
                <Empty title="There is no queue yet">
                  Queues are made in Setup, and workflows place mail in them.
                </Empty>
              </div>
            ) : (
              <ItemList
                queues={all}
                queueId={queueId!}
                items={shown}
                all={items.data?.items ?? []}
                doneToday={items.data?.doneToday ?? 0}
                loading={items.isPending}
                show={show}
                chosen={chosen?.id}
                now={now}
                onQueue={(queue) => void navigate({ search: { queue, show: search.show } })}
                onShow={(s) => void navigate({ search: { queue: queueId, show: s } })}
                onOpen={open}
              />
            )
          }
        </Loaded>
      </section>
      {chosen ? (
        <Desk
          key={chosen.id}
          item={chosen}
          now={now}
          onGone={() => open(shown[index + 1]?.id ?? shown[index - 1]?.id)}
        />
      ) : (
        items.data && (
          <div className="bg-sheet px-6">
            <Empty title={show === 'open' ? 'Nothing waits in this queue' : 'Nothing here'}>
              {search.item !== undefined && shown.length > 0
                ? 'The item you had open was dealt with. Choose another one on the left.'
                : 'New items appear by themselves as workflows place mail here.'}
            </Empty>
          </div>
        )
      )}
    </div>
  );
}
