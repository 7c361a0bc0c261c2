import { useMemo, useState } from 'react';
import { Link } from '@tanstack/react-router';
import { useMutation, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import { useMay } from '@/api/session';
import type { ItemRow, MessageView } from '@/api/types';
import { Button } from '@/parts/Button';
import { ByHand, handDeeds, type HandDeed } from '@/parts/ByHand';
import { Conversation } from '@/parts/Conversation';
import { DeedList } from '@/parts/DeedList';
import { marksOf } from '@/parts/evidence';
import { Facts } from '@/parts/Facts';
import { MessageSheet } from '@/parts/MessageSheet';
import { notify } from '@/parts/Notices';
import { Reasons } from '@/parts/Reasons';
import { SortByHand } from '@/parts/SortByHand';
import { Loaded } from '@/parts/States';
import { timeLeft } from '@/parts/time';
import { Timeline } from '@/parts/Timeline';
import { useKeys } from '@/parts/useKeys';
import { CheckReply } from '../replies/CheckReply';
import { HandOn, Note, Wait } from './DeskForms';

type Form = 'hand-on' | 'wait' | 'note' | null;

/** The screen on which one item is worked. */
export function Desk({ item, now, onGone }: { item: ItemRow; now: Date; onGone: () => void }) {
  const message = useQuery({
    queryKey: ['mail', item.messageId],
    queryFn: () =>
      body(
        api.GET('/api/messages/{id}', { params: { path: { id: item.messageId } } }),
      ) as Promise<MessageView>,
  });
  return (
    <div className="min-h-0 bg-sheet">
      {message.data ? (
        <DeskSheet item={item} view={message.data} now={now} onGone={onGone} />
      ) : (
        <div className="px-6">
          <Loaded query={message}>{() => null}</Loaded>
        </div>
      )}
    </div>
  );
}

function DeskSheet({
  item,
  view,
  now,
  onGone,
}: {
  item: ItemRow;
  view: MessageView;
  now: Date;
  onGone: () => void;
}) {
  const may = useMay('desk');
  const [lit, setLit] = useState<number | null>(null);
  const [form, setForm] = useState<Form>(null);
  const [deed, setDeed] = useState<HandDeed | null>(null);
  const path = { params: { path: { id: item.id } } };
  const verdict = view.verdicts.find((v) => v.outcome === 'TakenIn') ?? null;
  const marks = useMemo(() => marksOf(verdict), [verdict]);
  const checking = view.deeds.find((d) => d.kind === 'Reply' && d.state === 'Checking');
  const entries = view.items.find((i) => i.item.id === item.id)?.entries ?? [];

  const reopen = useMutation({ mutationFn: () => api.POST('/api/items/{id}/reopen', path) });
  const take = useMutation({
    mutationFn: () =>
      item.mine ? api.POST('/api/items/{id}/put-back', path) : api.POST('/api/items/{id}/take', path),
  });
  const done = useMutation({
    mutationFn: () => api.POST('/api/items/{id}/done', path),
    onSuccess: () => {
      notify({ text: `Done: ${item.subject || '(no subject)'}`, undo: () => reopen.mutate() });
      onGone();
    },
  });
  useKeys(
    may
      ? {
          a: () => take.mutate(),
          d: () => done.mutate(),
          h: () => setForm('hand-on'),
          w: () => (item.state === 'Waiting' ? reopen.mutate() : setForm('wait')),
          n: () => setForm('note'),
          ...Object.fromEntries(handDeeds.map((h) => [h.letter, () => setDeed(h.deed)])),
        }
      : {},
  );
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_292px]">
      <section aria-label="Message" className="min-h-0 overflow-y-auto px-6 py-4" tabIndex={0}>
        {view.prepared ? (
          <MessageSheet
            message={view.prepared}
            marks={marks}
            hasHtml={view.hasHtml}
            lit={lit}
            setLit={setLit}
            titleLevel="h1"
          />
        ) : (
          <p>{view.row.problem}</p>
        )}
        {checking && <CheckReply deedId={checking.id} letters />}
        <Conversation messages={view.conversation} />
      </section>
      <aside
        aria-label="Desk"
        className="min-h-0 overflow-y-auto border-l border-line bg-paper px-4 py-3"
        tabIndex={0}
      >
        {may && (
          <>
            <div className="mb-2 grid grid-cols-2 gap-2">
              <Button kind="main" letter="d" onClick={() => done.mutate()} disabled={done.isPending}>
                Done
              </Button>
              <Button letter="a" onClick={() => take.mutate()} disabled={take.isPending}>
                {item.mine ? 'Put back' : 'Take'}
              </Button>
              <Button letter="h" onClick={() => setForm('hand-on')}>
                Hand on
              </Button>
              {item.state === 'Waiting' ? (
                <Button letter="w" onClick={() => reopen.mutate()}>
                  Take up
                </Button>
              ) : (
                <Button letter="w" onClick={() => setForm('wait')}>
                  Wait
                </Button>
              )}
            </div>
            <div className="mb-3 flex flex-wrap gap-x-3 gap-y-1 border-b border-line pb-3">
              {handDeeds.map((h) => (
                <button
                  key={h.deed}
                  className="link"
                  onClick={() => setDeed(h.deed)}
                  aria-keyshortcuts={h.letter}
                >
                  {h.label} <kbd className="font-mono text-[11px] font-normal">{h.letter.toUpperCase()}</kbd>
                </button>
              ))}
              <button className="link" onClick={() => setForm('note')} aria-keyshortcuts="n">
                Note <kbd className="font-mono text-[11px] font-normal">N</kbd>
              </button>
            </div>
          </>
        )}
        <SortByHand messageId={item.messageId} itemId={item.id} onSorted={onGone} />
        <Part title="Due">
          <span className={item.dueAt && new Date(item.dueAt) < now ? 'font-bold text-rust' : ''}>
            {timeLeft(item.dueAt, now)}
          </span>
          {item.takenBy && <span className="text-soft"> · taken by {item.mine ? 'you' : item.takenBy}</span>}
        </Part>
        {view.tickets.length > 0 && (
          <Part title="Ticket">
            {view.tickets.map((t) => (
              <Link key={t} className="link mr-3" to="/tickets/$reference" params={{ reference: t }}>
                {t}
              </Link>
            ))}
          </Part>
        )}
        {verdict && verdict.facts.length > 0 && (
          <Part title="Facts">
            <Facts facts={verdict.facts} />
          </Part>
        )}
        {verdict && (
          <Part title={`Reasons, ${verdict.workflowName} ${verdict.edition}`}>
            <Reasons verdict={verdict} lit={lit} setLit={setLit} />
          </Part>
        )}
        <Part title="Deeds">
          <DeedList deeds={view.deeds} />
        </Part>
        <Part title="What happened">
          <Timeline entries={entries} />
        </Part>
      </aside>
      <ByHand messageId={item.messageId} deed={deed} onClose={() => setDeed(null)} />
      <HandOn item={item} open={form === 'hand-on'} onClose={() => setForm(null)} onDone={onGone} />
      <Wait item={item} open={form === 'wait'} onClose={() => setForm(null)} />
      <Note item={item} open={form === 'note'} onClose={() => setForm(null)} />
    </div>
  );
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section className="mb-3 border-b border-line pb-3 last:border-0">
      <h2 className="caps mb-1">{title}</h2>
      {children}
    </section>
  );
}
