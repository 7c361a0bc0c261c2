import { useState } from 'react';
import { Link } from '@tanstack/react-router';
import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { RunState, RunView } from '@/api/types';
import { dayEnd, dayStart } from '@/parts/days';
import { Empty, Loaded, Problem } from '@/parts/States';
import { Tag, type Tone } from '@/parts/Tag';
import { when } from '@/parts/time';
import type { LogSearch } from './Log';

const states: Record<RunState, [Tone, string]> = {
  Draft: ['soft', 'not confirmed'],
  Running: ['amber', 'under way'],
  Stopped: ['amber', 'stopped'],
  Finished: ['kelp', 'finished'],
  Failed: ['rust', 'failed'],
};

/** Looks and catch-ups, newest first; each opens its accounts and the reasons of what was not simply done. */
export function RunLog({ search }: { search: LogSearch }) {
  const runs = useInfiniteQuery({
    queryKey: ['log', 'runs', search],
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/log/runs', {
          params: {
            query: {
              mailboxId: search.mailbox,
              workflowId: search.workflow,
              state: search.outcome as RunState | undefined,
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
  const [open, setOpen] = useState<number | undefined>(search.run);
  if (runs.error) return <Problem error={runs.error} retry={() => void runs.refetch()} />;
  const rows = runs.data?.pages.flatMap((p) => p.runs) ?? [];
  if (runs.isSuccess && rows.length === 0) {
    return (
      <Empty title="Nothing found">
        Looks at mailboxes are written down when they find something or fail, catch-ups whenever they are
        begun.
      </Empty>
    );
  }
  return (
    <>
      <table className="table">
        <thead>
          <tr>
            <th className="w-[110px]">When</th>
            <th>What</th>
            <th>Accounts</th>
            <th className="w-[110px] !pr-0">Outcome</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <Row
              key={r.id}
              run={r}
              open={open === r.id}
              onOpen={() => setOpen(open === r.id ? undefined : r.id)}
            />
          ))}
        </tbody>
      </table>
      {runs.hasNextPage && (
        <button className="link mt-2" onClick={() => void runs.fetchNextPage()}>
          Earlier ones
        </button>
      )}
    </>
  );
}

function Row({ run, open, onOpen }: { run: RunView; open: boolean; onOpen: () => void }) {
  const [tone, word] = states[run.state];
  return (
    <>
      <tr className="opens align-baseline">
        <td className="text-soft">{when(run.startedAt)}</td>
        <td>
          <button className="text-left font-semibold hover:underline" aria-expanded={open} onClick={onOpen}>
            {run.kind === 'Look'
              ? `Look at ${run.mailbox ?? 'a removed mailbox'}`
              : `Catch-up: ${run.workflow ?? 'gone'}`}
          </button>
          {run.kind === 'CatchUp' && (
            <span className="text-soft">
              {' '}
              on {run.choice}
              {run.person && `, ${run.person}`}
            </span>
          )}
        </td>
        <td>
          {run.problem && run.lookedAt === 0 ? (
            <span className="text-rust">{run.problem}</span>
          ) : (
            accounts(run)
          )}
        </td>
        <td className="!pr-0">
          <Tag tone={tone}>{word}</Tag>
        </td>
      </tr>
      {open && (
        <tr>
          <td />
          <td colSpan={3} className="!pr-0">
            <Opened run={run} />
          </td>
        </tr>
      )}
    </>
  );
}

/** The balance in words: both sides always come to the same. */
export function accounts(r: RunView): string {
  if (r.kind === 'Look') {
    const parts = [
      [r.taken, 'taken'],
      [r.known, 'here already'],
      [r.gone, 'gone before they were read'],
      [r.carriedOver, 'carried over'],
    ].filter(([n]) => n !== 0);
    const rest = r.lookedAt - r.taken - r.known - r.gone - r.carriedOver;
    if (rest > 0) parts.push([rest, 'left for the next look']);
    return `${r.lookedAt} found = ${parts.map(([n, w]) => `${n} ${w}`).join(' + ') || 'nothing yet'}`;
  }
  return `${r.lookedAt - r.excluded} chosen = ${r.takenIn} taken in + ${r.leftAlone} left alone${r.toCome > 0 ? ` + ${r.toCome} to come` : ''}`;
}

function Opened({ run }: { run: RunView }) {
  const lines = useQuery({
    queryKey: ['log', 'lines', run.id],
    queryFn: () => body(api.GET('/api/log/runs/{id}/lines', { params: { path: { id: run.id } } })),
  });
  return (
    <div className="border-l-2 border-line pb-2 pl-3">
      {run.problem && <p className="font-semibold text-rust">{run.problem}</p>}
      {run.detail && (
        <pre className="my-1 max-h-[180px] overflow-auto bg-faint px-2 py-1 font-mono text-[11.5px] whitespace-pre-wrap">
          {run.detail}
        </pre>
      )}
      <p className="flex flex-wrap gap-x-4">
        {run.kind === 'Look' && run.taken > 0 && (
          <Link to="/mail" search={{ run: run.id }} className="link">
            The {run.taken} {run.taken === 1 ? 'message' : 'messages'} it took
          </Link>
        )}
        {run.kind === 'CatchUp' && (
          <>
            <Link to="/catch-up" search={{ run: run.id }} className="link">
              Open the catch-up
            </Link>
            <Link to="/log" search={{ tab: 'deeds', run: run.id }} className="link">
              Its deeds
            </Link>
            <span>
              {run.planned} planned = {run.done} done + {run.waiting} waiting + {run.stuck} stuck +{' '}
              {run.skipped} skipped
            </span>
          </>
        )}
      </p>
      <Loaded query={lines}>
        {(rows) =>
          rows.length === 0 ? null : (
            <ul className="mt-1">
              {rows.map((l, i) => (
                <li key={i} className="flex gap-3">
                  <span className="min-w-0 flex-1 truncate">
                    {l.messageId ? (
                      <Link to="/mail" search={{ id: l.messageId }} className="link">
                        {l.subject || '(no subject)'}
                      </Link>
                    ) : (
                      <span className="font-mono text-[12px]">{l.source}</span>
                    )}
                  </span>
                  <span className="min-w-0 flex-[2] text-soft">
                    {outcomes[l.what] ?? l.what}
                    {l.because && `: ${l.because}`}
                  </span>
                </li>
              ))}
            </ul>
          )
        }
      </Loaded>
    </div>
  );
}

const outcomes: Record<string, string> = {
  LeftAlone: 'left alone',
  Excluded: 'taken out by hand',
  Known: 'here already',
  Gone: 'gone',
  Unreadable: 'unreadable',
};
