import { useMemo, useState } from 'react';
import { Link } from '@tanstack/react-router';
import { useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import { useMay } from '@/api/session';
import type { MessageView } from '@/api/types';
import { ByHand, handDeeds, type HandDeed } from '@/parts/ByHand';
import { Conversation } from '@/parts/Conversation';
import { DeedList } from '@/parts/DeedList';
import { marksOf } from '@/parts/evidence';
import { Facts } from '@/parts/Facts';
import { MessageSheet } from '@/parts/MessageSheet';
import { OutcomeTag, Reasons } from '@/parts/Reasons';
import { SortByHand } from '@/parts/SortByHand';
import { Loaded } from '@/parts/States';
import { bytes } from '@/parts/time';
import { useKeys } from '@/parts/useKeys';
import { CheckReply } from '../replies/CheckReply';
import { Release } from './Release';
import { TheirKind } from './TheirKind';
import { TryWorkflow } from './TryWorkflow';

/** One message: its text safely shown, what each workflow made of it and why, and what was done. */
export function MessagePage({ id }: { id: number }) {
  const message = useQuery({
    queryKey: ['mail', id],
    queryFn: () => body(api.GET('/api/messages/{id}', { params: { path: { id } } })) as Promise<MessageView>,
  });
  return (
    <div className="min-h-0 bg-sheet">
      {message.data ? (
        <MessageColumns view={message.data} />
      ) : (
        <div className="px-6">
          <Loaded query={message}>{() => null}</Loaded>
        </div>
      )}
    </div>
  );
}

function MessageColumns({ view }: { view: MessageView }) {
  const may = useMay('desk') && view.prepared !== null && view.row.state === 'Planned';
  const first = view.verdicts.findIndex((v) => v.outcome === 'TakenIn');
  const [open, setOpen] = useState(first);
  const [lit, setLit] = useState<number | null>(null);
  const [deed, setDeed] = useState<HandDeed | null>(null);
  const [trying, setTrying] = useState(false);
  const [kind, setKind] = useState(false);
  const keeper = useMay('keeper');
  const verdict = view.verdicts[open] ?? null;
  const marks = useMemo(() => marksOf(verdict), [verdict]);
  const hands = [{ deed: 'place' as const, label: 'Place', letter: 'q' }, ...handDeeds];
  useKeys({
    ...(may ? Object.fromEntries(hands.map((h) => [h.letter, () => setDeed(h.deed)])) : {}),
    w: () => setTrying(true),
    k: () => setKind(true),
  });
  const checking = view.deeds.find((d) => d.kind === 'Reply' && d.state === 'Checking');
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_320px]">
      <section aria-label="Message" className="min-h-0 overflow-y-auto px-6 py-4" tabIndex={0}>
        {view.prepared ? (
          <MessageSheet
            message={view.prepared}
            marks={marks}
            hasHtml={view.hasHtml}
            lit={lit}
            setLit={setLit}
          />
        ) : view.row.state === 'Arrived' ? (
          <p role="status">This message has just arrived and is being looked at.</p>
        ) : (
          <div role="alert" className="border-l-4 border-rust bg-rust-wash px-4 py-3">
            <p className="font-semibold">This message could not be read as mail. {view.row.problem}</p>
            <p>Its bytes are kept exactly as they came; “As received” below downloads them.</p>
          </div>
        )}
        {checking && <CheckReply deedId={checking.id} />}
        <p className="mt-6 flex flex-wrap gap-x-4 border-t border-faint pt-2 text-soft">
          <span>{view.mailbox}</span>
          <a href={`/api/messages/${view.row.id}/raw`} className="link">
            As received, {bytes(view.size)}
          </a>
          {view.prepared && view.prepared.originallyTo.length > 0 && (
            <span>originally to {view.prepared.originallyTo.join(', ')}</span>
          )}
        </p>
        <Conversation messages={view.conversation} />
      </section>
      <aside
        aria-label="Reasons and deeds"
        className="min-h-0 overflow-y-auto border-l border-line bg-paper px-4 py-3"
        tabIndex={0}
      >
        {may && (
          <div className="mb-3 flex flex-wrap gap-x-3 gap-y-1 border-b border-line pb-3">
            {hands.map((h) => (
              <button
                key={h.deed}
                className="link"
                onClick={() => setDeed(h.deed)}
                aria-keyshortcuts={h.letter}
              >
                {h.label} <kbd className="font-mono text-[11px] font-normal">{h.letter.toUpperCase()}</kbd>
              </button>
            ))}
          </div>
        )}
        {view.prepared && view.row.state === 'Planned' && (
          <p className="mb-3">
            <button className="link" onClick={() => setTrying(true)} aria-keyshortcuts="w">
              What would a workflow do? <kbd className="font-mono text-[11px] font-normal">W</kbd>
            </button>
            <button className="link block" onClick={() => setKind(true)} aria-keyshortcuts="k">
              Find their kind <kbd className="font-mono text-[11px] font-normal">K</kbd>
            </button>
          </p>
        )}
        {view.row.state === 'Held' && (
          <div className="mb-3 border-l-4 border-amber bg-amber-wash px-3 py-2">
            <p>
              <b>Held:</b> {view.senderCheck}. No workflow has seen it.
            </p>
            {keeper && <Release ids={[view.row.id]} onDone={() => undefined} />}
          </div>
        )}
        {view.row.state === 'Planned' && view.senderCheck && (
          <p className="mb-3 border-l-4 border-line pl-3 text-soft">{view.senderCheck}.</p>
        )}
        {view.row.old && view.verdicts.length === 0 && (
          <p className="mb-3 border-l-4 border-line pl-3">
            Old mail: it was there before the mailbox was connected, or was brought in. A catch-up carries
            workflows out on it.
          </p>
        )}
        {view.duplicateOfId && (
          <p className="mb-3 border-l-4 border-line pl-3">
            A copy of an earlier message, so nothing was done again.{' '}
            <Link to="/mail" search={{ id: view.duplicateOfId }} className="link">
              Open the first one
            </Link>
          </p>
        )}
        <SortByHand messageId={view.row.id} />
        {view.deeds.length > 0 && (
          <>
            <h2 className="caps mb-1">Deeds</h2>
            <DeedList deeds={view.deeds} />
          </>
        )}
        {(view.tickets.length > 0 || view.items.length > 0 || view.files.length > 0) && (
          <p className="my-3 flex flex-wrap gap-x-4">
            {view.tickets.map((t) => (
              <Link key={t} to="/tickets/$reference" params={{ reference: t }} className="link">
                {t}
              </Link>
            ))}
            {view.items
              .filter((i) => i.item.state !== 'Done')
              .map((i) => (
                <Link
                  key={i.item.id}
                  to="/queues"
                  search={{ queue: i.item.queueId, item: i.item.id }}
                  className="link"
                >
                  {i.queueName}
                </Link>
              ))}
            {view.files.map((f) => (
              <a key={f.id} href={`/api/files/${f.id}/content`} className="link break-all">
                {f.name}
              </a>
            ))}
          </p>
        )}
        <h2 className="caps mt-4 mb-1">Workflows and their reasons</h2>
        {view.verdicts.length === 0 && <p className="text-soft">No workflow has looked at it.</p>}
        <ul>
          {view.verdicts.map((v, i) => (
            <li key={v.workflowId} className="border-b border-faint py-1.5">
              <button
                className="flex w-full items-baseline gap-2 text-left"
                aria-expanded={open === i}
                onClick={() => setOpen(open === i ? -1 : i)}
              >
                <span className={`min-w-0 flex-1 ${v.outcome === 'TakenIn' ? 'font-semibold' : ''}`}>
                  {v.workflowName} <span className="font-normal text-soft">{v.edition}</span>
                </span>
                <OutcomeTag verdict={v} />
              </button>
              {open === i && (
                <div className="mt-1 ml-1 border-l-2 border-line pl-2.5">
                  <Reasons verdict={v} lit={lit} setLit={setLit} />
                  {v.facts.length > 0 && (
                    <div className="mt-1.5 text-[12.5px]">
                      <Facts facts={v.facts} />
                    </div>
                  )}
                </div>
              )}
            </li>
          ))}
        </ul>
      </aside>
      <TheirKind messageIds={[view.row.id]} open={kind} onClose={() => setKind(false)} />
      <TryWorkflow messageId={view.row.id} open={trying} onClose={() => setTrying(false)} />
      <ByHand messageId={view.row.id} deed={deed} onClose={() => setDeed(null)} />
    </div>
  );
}
