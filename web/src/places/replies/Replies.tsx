import { Link, useNavigate, useSearch } from '@tanstack/react-router';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { api, body } from '@/api/client';
import type { MessageView, ReplyRow, ReplyShow } from '@/api/types';
import { MessageSheet } from '@/parts/MessageSheet';
import { Empty, Loaded } from '@/parts/States';
import { ago, when } from '@/parts/time';
import { useKeys } from '@/parts/useKeys';
import { ReplySheet } from './CheckReply';
import { useReplies } from './useReplies';

const shows: { show: ReplyShow; label: string; empty: string }[] = [
  {
    show: 'Checking',
    label: 'Waiting for checking',
    empty: 'No reply waits for checking. Workflows put drafts here, and replies with a value missing.',
  },
  { show: 'Scheduled', label: 'Scheduled', empty: 'No reply waits for its time.' },
  { show: 'Sent', label: 'Sent', empty: 'No reply has been sent yet.' },
  { show: 'Stuck', label: 'Stuck', empty: 'No reply is stuck.' },
  { show: 'Stopped', label: 'Stopped', empty: 'No reply has been stopped.' },
];

/** Replies: what waits for a checker beside the message it answers. */
export function Replies() {
  const search = useSearch({ from: '/replies' });
  const navigate = useNavigate({ from: '/replies' });
  const show = search.show ?? 'Checking';
  const replies = useReplies(show);
  const rows = replies.data?.replies ?? [];
  const chosen = rows.find((r) => r.deedId === search.deed) ?? rows[0];
  const index = chosen ? rows.indexOf(chosen) : -1;
  const open = (deed: number | undefined) => void navigate({ search: { show, deed } });
  useKeys({
    ArrowDown: () => open(rows[Math.min(index + 1, rows.length - 1)]?.deedId),
    ArrowUp: () => open(rows[Math.max(index - 1, 0)]?.deedId),
  });
  return (
    <div className="grid h-full grid-cols-[372px_minmax(0,1fr)]">
      <section aria-label="Replies" className="flex min-h-0 flex-col border-r border-line">
        <header className="border-b border-line px-4 pt-3 pb-2">
          <h1 className="title !text-[21px]">Replies</h1>
          <div role="tablist" aria-label="Which replies" className="mt-1 flex flex-wrap gap-x-4">
            {shows.map((s) => (
              <button
                key={s.show}
                role="tab"
                aria-selected={show === s.show}
                onClick={() => void navigate({ search: { show: s.show } })}
                className="text-soft aria-selected:font-bold aria-selected:text-ink"
              >
                {s.label} {replies.data?.[s.show.toLowerCase() as 'sent'] ?? ''}
              </button>
            ))}
          </div>
        </header>
        <ul className="min-h-0 flex-1 overflow-y-auto" tabIndex={0} aria-label="List of replies">
          {rows.map((r) => (
            <li key={r.deedId}>
              <button
                onClick={() => open(r.deedId)}
                aria-current={r === chosen ? 'true' : undefined}
                className="w-full border-b border-l-[3px] border-faint border-l-transparent py-1.5 pr-4 pl-[13px] text-left aria-[current]:border-l-plum aria-[current]:bg-sheet hover:bg-sheet"
              >
                <span className="flex gap-2">
                  <span className="min-w-0 flex-1 truncate font-semibold">{r.subject}</span>
                  <span className="shrink-0 text-soft">{time(r)}</span>
                </span>
                <span className="block truncate text-soft">
                  {r.to}
                  {r.workflow && ` · ${r.workflow}`}
                </span>
              </button>
            </li>
          ))}
        </ul>
      </section>
      <section
        aria-label="Reply and message"
        className="min-h-0 overflow-y-auto bg-sheet px-6 py-2"
        tabIndex={0}
      >
        {chosen ? (
          <div className="max-w-[860px]">
            <ReplySheet key={chosen.deedId} reply={chosen} letters />
            <Answered key={chosen.messageId} reply={chosen} />
          </div>
        ) : (
          <Loaded query={replies}>
            {() => <Empty title="Nothing here">{shows.find((s) => s.show === show)?.empty}</Empty>}
          </Loaded>
        )}
      </section>
    </div>
  );
}

function time(reply: ReplyRow): string {
  if (reply.state === 'Checking') return ago(reply.createdAt);
  return when(reply.notBefore ?? reply.doneAt ?? reply.createdAt);
}

function Answered({ reply }: { reply: ReplyRow }) {
  const [lit, setLit] = useState<number | null>(null);
  const message = useQuery({
    queryKey: ['mail', reply.messageId],
    queryFn: () =>
      body(
        api.GET('/api/messages/{id}', { params: { path: { id: reply.messageId } } }),
      ) as Promise<MessageView>,
  });
  return (
    <section className="mt-6 border-t border-line pt-4">
      <p className="caps mb-2 flex justify-between">
        It answers
        <Link to="/mail" search={{ id: reply.messageId }} className="link normal-case tracking-normal">
          Open the message with its reasons
        </Link>
      </p>
      <Loaded query={message}>
        {(m) =>
          m.prepared ? (
            <MessageSheet message={m.prepared} marks={[]} hasHtml={m.hasHtml} lit={lit} setLit={setLit} />
          ) : null
        }
      </Loaded>
    </section>
  );
}
