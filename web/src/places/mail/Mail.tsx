import { useEffect, useRef, useState } from 'react';
import { Link, useNavigate, useSearch } from '@tanstack/react-router';
import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { api, body } from '@/api/client';
import { useMay } from '@/api/session';
import type { MessageRow, MessageShow } from '@/api/types';
import { Button } from '@/parts/Button';
import { Empty, Problem } from '@/parts/States';
import { Tag } from '@/parts/Tag';
import { when } from '@/parts/time';
import { useKeys } from '@/parts/useKeys';
import { MessagePage } from './MessagePage';
import { Release } from './Release';
import { TheirKind } from './TheirKind';
import { Upload } from './Upload';

const shows: [MessageShow, string][] = [
  ['All', 'all mail'],
  ['TakenIn', 'taken in'],
  ['LeftAlone', 'left alone'],
  ['Old', 'old mail'],
  ['Automatic', 'automatic'],
  ['Held', 'held'],
  ['Duplicate', 'copies'],
  ['Unreadable', 'unreadable'],
];

/** Mail: the search on the left, one message with its reasons and deeds on the right. */
export function Mail() {
  const search = useSearch({ from: '/mail' });
  const navigate = useNavigate({ from: '/mail' });
  const [bringIn, setBringIn] = useState(false);
  const builder = useMay('builder');
  const { text = '', show = 'All', mailbox, workflow, run } = search;
  const [picked, setPicked] = useState<Set<number>>(new Set());
  const [kind, setKind] = useState(false);
  const keeper = useMay('keeper');
  const mail = useInfiniteQuery({
    queryKey: ['mail', 'list', text, show, mailbox, workflow, run],
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/messages', {
          params: {
            query: {
              text,
              show,
              mailboxId: mailbox,
              workflowId: workflow,
              runId: run,
              beforeTime: pageParam?.time,
              beforeId: pageParam?.id,
            },
          },
        }),
      ),
    initialPageParam: null as { time: string; id: number } | null,
    getNextPageParam: (last) => (last.nextId ? { time: last.nextTime!, id: last.nextId } : undefined),
    placeholderData: keepPreviousData,
  });
  const rows = mail.data?.pages.flatMap((p) => p.messages) ?? [];
  const chosen = search.id ?? rows[0]?.id;
  const index = rows.findIndex((r) => r.id === chosen);
  const open = (id: number | undefined) => id !== undefined && void navigate({ search: { ...search, id } });
  useKeys({
    ArrowDown: () => open(rows[Math.min(index + 1, rows.length - 1)]?.id),
    ArrowUp: () => open(rows[Math.max(index - 1, 0)]?.id),
  });
  return (
    <div className="grid h-full grid-cols-[392px_minmax(0,1fr)]">
      <section aria-label="Search" className="flex min-h-0 flex-col border-r border-line">
        <header className="border-b border-line px-4 pt-3 pb-2">
          <div className="flex items-baseline justify-between">
            <h1 className="title !text-[21px]">Mail</h1>
            <span className="flex items-baseline gap-3">
              <span className="text-soft">{mail.data?.pages[0]?.total?.toLocaleString('en')}</span>
              {builder && (
                <Button kind="quiet" className="!px-0" onClick={() => setBringIn(true)}>
                  Bring in files
                </Button>
              )}
            </span>
          </div>
          <div className="mt-1 flex gap-2">
            <SearchBox
              text={text}
              onText={(t) =>
                void navigate({ search: { ...search, id: undefined, text: t || undefined }, replace: true })
              }
            />
            <select
              aria-label="Which mail"
              value={show}
              className="boxed"
              onChange={(e) =>
                void navigate({ search: { ...search, id: undefined, show: e.target.value as MessageShow } })
              }
            >
              {shows.map(([value, label]) => (
                <option key={value} value={value}>
                  {label}
                </option>
              ))}
            </select>
          </div>
          {(workflow ?? mailbox ?? run) !== undefined && (
            <button className="link mt-1" onClick={() => void navigate({ search: { text: search.text } })}>
              Only{' '}
              {run !== undefined
                ? 'what one look took'
                : workflow !== undefined
                  ? 'one workflow’s mail'
                  : 'one mailbox'}
              . Show all
            </button>
          )}
          <p className="mt-1 flex flex-wrap gap-x-3">
            {picked.size > 0 && (
              <span className="font-semibold">
                {picked.size} picked{' '}
                <button className="link !font-normal" onClick={() => setPicked(new Set())}>
                  none
                </button>
              </span>
            )}
            {picked.size > 0 && (
              <button className="link" onClick={() => setKind(true)}>
                Find their kind
              </button>
            )}
            {picked.size > 0 && keeper && show === 'Held' && (
              <Release ids={[...picked]} onDone={() => setPicked(new Set())} />
            )}
            {builder && rows.length > 0 && (
              <Link
                to="/catch-up"
                search={
                  picked.size > 0
                    ? { ids: [...picked] }
                    : { text: text || undefined, mailbox, show: catchUpShow(show) }
                }
                className="link"
              >
                Carry out a workflow
              </Link>
            )}
            {rows.length > 0 && (
              <a className="link" href={exportAddress({ text, show, mailbox, workflow, run })} download>
                Export as mbox
              </a>
            )}
          </p>
        </header>
        {mail.error ? (
          <div className="px-4">
            <Problem error={mail.error} retry={() => void mail.refetch()} />
          </div>
        ) : (
          <Rows
            rows={rows}
            chosen={chosen}
            picked={picked}
            onPick={(id) =>
              setPicked((p) => (p.has(id) ? new Set([...p].filter((x) => x !== id)) : new Set(p).add(id)))
            }
            onOpen={open}
            onEnd={() => {
              if (mail.hasNextPage && !mail.isFetchingNextPage) void mail.fetchNextPage();
            }}
          />
        )}
        {mail.isSuccess && rows.length === 0 && (
          <div className="px-4">
            <Empty title="No message found">
              {text
                ? 'Words must all occur, whatever their case and accents; words in quotes must follow each other, -word must not occur, and OR stands between words one of which is enough. A part of a word is looked for in subject and sender.'
                : 'Mail appears here as it arrives.'}
            </Empty>
          </div>
        )}
      </section>
      {chosen !== undefined ? <MessagePage key={chosen} id={chosen} /> : <div className="bg-sheet" />}
      <TheirKind messageIds={[...picked]} open={kind} onClose={() => setKind(false)} />
      <Upload open={bringIn} onClose={() => setBringIn(false)} />
    </div>
  );
}

function SearchBox({ text, onText }: { text: string; onText: (text: string) => void }) {
  const [typed, setTyped] = useState(text);
  useEffect(() => setTyped(text), [text]);
  useEffect(() => {
    if (typed === text) return;
    const timer = setTimeout(() => onText(typed), 250);
    return () => clearTimeout(timer);
  });
  return (
    <input
      type="search"
      aria-label="Find mail"
      placeholder="Words, a sender, a file name"
      value={typed}
      onChange={(e) => setTyped(e.target.value)}
      className="boxed min-w-0 flex-1"
    />
  );
}

function Rows({
  rows,
  chosen,
  picked,
  onPick,
  onOpen,
  onEnd,
}: {
  rows: MessageRow[];
  chosen?: number;
  picked: Set<number>;
  onPick: (id: number) => void;
  onOpen: (id: number) => void;
  onEnd: () => void;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 48,
    overscan: 12,
  });
  const last = list.getVirtualItems().at(-1)?.index ?? 0;
  useEffect(() => {
    if (rows.length > 0 && last >= rows.length - 10) onEnd();
  }, [last, rows.length, onEnd]);
  return (
    <div
      ref={scroller}
      className={rows.length === 0 ? '' : 'min-h-0 flex-1 overflow-y-auto'}
      tabIndex={0}
      role="region"
      aria-label="Messages found"
    >
      <div style={{ height: list.getTotalSize(), position: 'relative' }}>
        {list.getVirtualItems().map((v) => {
          const m = rows[v.index]!;
          return (
            <div
              key={m.id}
              style={{ position: 'absolute', top: v.start, height: v.size, left: 0, right: 0 }}
              className="flex border-b border-faint hover:bg-sheet"
            >
              <input
                type="checkbox"
                aria-label={`Pick ${m.subject || 'the message without a subject'}`}
                className="mx-[9px] mt-1.5 self-start"
                checked={picked.has(m.id)}
                onChange={() => onPick(m.id)}
              />
              <button
                onClick={() => onOpen(m.id)}
                aria-current={m.id === chosen ? 'true' : undefined}
                className="min-w-0 flex-1 border-r-[3px] border-r-transparent pr-3 pl-1 text-left leading-[19px] aria-[current]:border-r-sea aria-[current]:bg-sheet"
              >
                <span className="flex gap-2">
                  <span className="min-w-0 flex-1 truncate font-semibold">{m.subject || '(no subject)'}</span>
                  <span className="shrink-0 text-soft">{when(m.arrivedAt)}</span>
                </span>
                <span className="flex gap-2 text-soft">
                  <span className="min-w-0 flex-1 truncate">
                    {m.senderName || m.senderAddress}
                    {m.attachmentCount > 0 &&
                      ` · ${m.attachmentCount} ${m.attachmentCount === 1 ? 'file' : 'files'}`}
                  </span>
                  <State row={m} />
                </span>
              </button>
            </div>
          );
        })}
      </div>
    </div>
  );
}

/** Which old messages a catch-up begins with when it is begun from here. */
const catchUpShow = (show: MessageShow): 'All' | 'LeftAlone' | 'TakenIn' | 'Old' =>
  show === 'LeftAlone' || show === 'TakenIn' || show === 'Old' ? show : 'All';

function exportAddress(q: {
  text: string;
  show: string;
  mailbox?: number;
  workflow?: number;
  run?: number;
}): string {
  const query = new URLSearchParams({ text: q.text, show: q.show });
  if (q.mailbox !== undefined) query.set('mailboxId', String(q.mailbox));
  if (q.workflow !== undefined) query.set('workflowId', String(q.workflow));
  if (q.run !== undefined) query.set('runId', String(q.run));
  return `/api/messages/export?${query}`;
}

function State({ row }: { row: MessageRow }) {
  if (row.state === 'Held') return <Tag tone="amber">held</Tag>;
  if (row.state === 'Unreadable') return <Tag tone="rust">unreadable</Tag>;
  if (row.state === 'Arrived') return <Tag tone="amber">being looked at</Tag>;
  if (row.duplicate) return <Tag tone="soft">copy</Tag>;
  return row.takenIn ? (
    <Tag tone="sea">taken in</Tag>
  ) : (
    <Tag tone="soft">{row.old ? 'old mail' : row.automatic ? 'automatic' : 'left alone'}</Tag>
  );
}
