import { useState } from 'react';
import { Link } from '@tanstack/react-router';
import { useInfiniteQuery, useMutation, useQueryClient } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import { useMay } from '@/api/session';
import type { DeedShow, DeedView } from '@/api/types';
import { Button } from '@/parts/Button';
import { dayEnd, dayStart } from '@/parts/days';
import { DeedTag } from '@/parts/DeedList';
import { notify } from '@/parts/Notices';
import { Empty, Problem } from '@/parts/States';
import { when } from '@/parts/time';
import { ChangeDeed } from './ChangeDeed';
import type { LogSearch } from './Log';

/** Every deed, newest first. Stuck ones are retried, changed or dropped, one by one or together. */
export function DeedLog({ search }: { search: LogSearch }) {
  const keeper = useMay('keeper');
  const [chosen, setChosen] = useState<Set<number>>(new Set());
  const deeds = useInfiniteQuery({
    queryKey: ['log', 'deeds', search],
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/log/deeds', {
          params: {
            query: {
              show: (search.outcome as DeedShow | undefined) ?? 'All',
              mailboxId: search.mailbox,
              workflowId: search.workflow,
              runId: search.run,
              text: search.text ?? '',
              from: dayStart(search.from),
              until: dayEnd(search.until),
              beforeId: pageParam ?? undefined,
            },
          },
        }),
      ),
    initialPageParam: null as number | null,
    getNextPageParam: (last) => last.nextId,
  });
  const client = useQueryClient();
  const act = useMutation({
    mutationFn: (what: 'retry' | 'drop') =>
      body(
        what === 'retry'
          ? api.POST('/api/deeds/retry', { body: { ids: [...chosen] } })
          : api.POST('/api/deeds/drop', { body: { ids: [...chosen] } }),
      ),
    onSuccess: (r, what) => {
      const left = r.left > 0 ? ` ${r.left} were no longer stuck.` : '';
      notify({ text: `${r.changed} ${what === 'retry' ? 'are tried again' : 'were dropped'}.${left}` });
      setChosen(new Set());
      void client.invalidateQueries({ queryKey: ['log'] });
    },
    onError: (e) => notify({ text: e.message }),
  });
  if (deeds.error) return <Problem error={deeds.error} retry={() => void deeds.refetch()} />;
  const rows = deeds.data?.pages.flatMap((p) => p.deeds) ?? [];
  const stuck = rows.filter((d) => d.state === 'Stuck');
  if (deeds.isSuccess && rows.length === 0)
    return <Empty title="No deed found">Nothing fits what was asked for.</Empty>;
  return (
    <>
      <p className="flex items-baseline gap-4 py-2 text-soft">
        {deeds.data?.pages[0]?.total?.toLocaleString('en')} deeds
        {search.run !== undefined && (
          <Link to="/log" search={{ tab: 'deeds' }} className="link">
            of one catch-up. Show all
          </Link>
        )}
        {keeper && stuck.length > 0 && (
          <span className="ml-auto flex items-baseline gap-3">
            <label className="flex items-baseline gap-1.5">
              <input
                type="checkbox"
                checked={stuck.every((d) => chosen.has(d.id))}
                onChange={(e) => setChosen(new Set(e.target.checked ? stuck.map((d) => d.id) : []))}
              />
              all {stuck.length} stuck ones shown
            </label>
            <Button disabled={chosen.size === 0 || act.isPending} onClick={() => act.mutate('retry')}>
              Try {chosen.size || ''} again
            </Button>
            <Button
              kind="quiet"
              disabled={chosen.size === 0 || act.isPending}
              onClick={() => act.mutate('drop')}
            >
              Drop
            </Button>
          </span>
        )}
      </p>
      <table className="table table-fixed">
        <tbody>
          {rows.map((d) => (
            <Row
              key={d.id}
              deed={d}
              may={keeper}
              chosen={chosen.has(d.id)}
              onChoose={(on) =>
                setChosen((c) => (on ? new Set(c).add(d.id) : new Set([...c].filter((x) => x !== d.id))))
              }
            />
          ))}
        </tbody>
      </table>
      {deeds.hasNextPage && (
        <button className="link mt-2" onClick={() => void deeds.fetchNextPage()}>
          Earlier ones
        </button>
      )}
    </>
  );
}

function Row({
  deed,
  may,
  chosen,
  onChoose,
}: {
  deed: DeedView;
  may: boolean;
  chosen: boolean;
  onChoose: (on: boolean) => void;
}) {
  const [open, setOpen] = useState(false);
  const stuck = deed.state === 'Stuck';
  return (
    <>
      <tr className="opens align-baseline">
        <td className="w-[26px]">
          {stuck && may && (
            <input
              type="checkbox"
              aria-label={`Choose ${deed.says}`}
              checked={chosen}
              onChange={(e) => onChoose(e.target.checked)}
            />
          )}
        </td>
        <td className="w-[104px] text-soft">{when(deed.createdAt)}</td>
        <td>
          <button
            className="block w-full truncate text-left first-letter:uppercase hover:underline"
            aria-expanded={open}
            onClick={() => setOpen(!open)}
          >
            {deed.says}
          </button>
          {deed.because && <span className="block truncate text-soft">{deed.because}</span>}
        </td>
        <td className="truncate">
          <Link to="/mail" search={{ id: deed.messageId }} className="no-underline hover:underline">
            {deed.messageSubject || '(no subject)'}
          </Link>
        </td>
        <td className="w-[150px] truncate text-soft">{deed.workflow ?? 'by hand'}</td>
        <td className="w-[136px] !pr-0">
          <DeedTag state={deed.state} />
        </td>
      </tr>
      {open && (
        <tr>
          <td />
          <td colSpan={5} className="!pr-0">
            <ol className="border-l-2 border-line pl-3">
              {deed.history.map((h, i) => (
                <li key={i} className="flex gap-3">
                  <span className="w-[104px] shrink-0 text-soft">{when(h.at)}</span>
                  <span className="min-w-0 break-words">
                    <DeedTag state={h.state} /> {h.note}
                    {h.person && `, ${h.person}`}
                  </span>
                </li>
              ))}
            </ol>
            {stuck && may && <ChangeDeed deed={deed} />}
          </td>
        </tr>
      )}
    </>
  );
}
