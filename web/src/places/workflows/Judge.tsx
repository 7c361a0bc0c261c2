import { useState } from 'react';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { ExampleMark, Expectation, Rehearsal, Sheet, SmallChangeView, Verdict } from '@/api/types';
import { MailLines } from '@/parts/MailLines';
import { notify } from '@/parts/Notices';
import { Problem } from '@/parts/States';

interface Props {
  workflowId: number;
  rehearsal: Rehearsal;
  messageId: number;
  verdict: Verdict;
  changed: boolean;
  example: Expectation | null;
  days: number | null;
  onSheet: (sheet: Sheet) => void;
}

const says: Record<ExampleMark, string> = {
  AsMeant: 'as meant',
  Wrong: 'wrong',
  ShouldBeTaken: 'should have been taken',
  ShouldBeLeft: 'should have been left alone',
};

/** What a person makes of the verdict on one message. A marked message becomes a kept example of the workflow. */
export function Judge({ workflowId, rehearsal, messageId, verdict, changed, example, days, onSheet }: Props) {
  const client = useQueryClient();
  const [looking, setLooking] = useState(false);
  const refresh = () => {
    void client.invalidateQueries({ queryKey: ['rehearsal', rehearsal.id] });
    void client.invalidateQueries({ queryKey: ['examples', workflowId] });
  };
  const mark = useMutation({
    mutationFn: (m: ExampleMark) =>
      body(
        api.POST('/api/workflows/{id}/examples', {
          params: { path: { id: workflowId } },
          body: { rehearsalId: rehearsal.id, messageId, mark: m },
        }),
      ),
    onSuccess: (_, m) => {
      refresh();
      notify({ text: `Kept as an example: ${says[m]}.`, undo: () => forget.mutate() });
      if (m === 'ShouldBeTaken') setLooking(true);
    },
  });
  const forget = useMutation({
    mutationFn: () =>
      api.DELETE('/api/workflows/{id}/examples/{messageId}', {
        params: { path: { id: workflowId, messageId } },
      }),
    onSuccess: refresh,
  });
  if (verdict.outcome === 'Skipped') return null;
  const taken = verdict.outcome === 'TakenIn';
  const marks: ExampleMark[] = changed
    ? ['AsMeant', 'Wrong']
    : taken
      ? ['AsMeant', 'ShouldBeLeft']
      : ['AsMeant', 'ShouldBeTaken'];
  return (
    <div className="mt-2 border-t border-dashed border-line pt-1.5">
      <p className="flex flex-wrap items-baseline gap-x-3">
        <span className="caps">This is</span>
        {marks.map((m) => (
          <button key={m} className="link" disabled={mark.isPending} onClick={() => mark.mutate(m)}>
            {says[m]}
          </button>
        ))}
        {example && (
          <span className="ml-auto text-soft">
            kept: {expectationWords(example)}{' '}
            <button className="link" onClick={() => forget.mutate()}>
              Let go
            </button>
          </span>
        )}
      </p>
      {mark.error && <Problem error={mark.error} />}
      {!taken && (looking || example?.takenIn) && (
        <SmallestChanges workflowId={workflowId} messageId={messageId} days={days} onSheet={onSheet} />
      )}
    </div>
  );
}

export function expectationWords(e: Expectation): string {
  if (!e.takenIn) return 'left alone';
  const category = e.category === null ? '' : e.category === '' ? ', none of these' : `, ${e.category}`;
  return `taken in${category}`;
}

/** The smallest changes that would take the message, and what else each of them would bring in. */
function SmallestChanges({
  workflowId,
  messageId,
  days,
  onSheet,
}: Pick<Props, 'workflowId' | 'messageId' | 'days' | 'onSheet'>) {
  const [open, setOpen] = useState<number | null>(null);
  const changes = useQuery({
    queryKey: ['smallest-changes', workflowId, messageId, days],
    queryFn: () =>
      body(
        api.GET('/api/workflows/{id}/smallest-changes', {
          params: {
            path: { id: workflowId },
            query: days === null ? { messageId } : { messageId, days },
          },
        }),
      ) as Promise<SmallChangeView[]>,
    gcTime: 0,
  });
  const apply = useMutation({
    mutationFn: async (c: SmallChangeView) => {
      for (const a of c.listAdditions)
        await api.POST('/api/setup/keyword-lists/{id}/words', {
          params: { path: { id: a.keywordListId } },
          body: { name: a.word },
        });
      return c;
    },
    onSuccess: (c) => {
      onSheet(c.sheet);
      notify({ text: `Changed: ${c.text}.` });
    },
  });
  if (changes.error) return <Problem error={changes.error} />;
  if (!changes.data) return <p className="text-soft">Looking for the smallest changes…</p>;
  if (changes.data.length === 0)
    return (
      <p className="text-soft">
        No small change would take it: it misses by more than three conditions, or by one that cannot be
        widened.
      </p>
    );
  return (
    <div className="mt-1">
      <p className="caps">Smallest changes that would take it</p>
      <ul>
        {changes.data.map((c, i) => (
          <li key={c.text} className="border-b border-faint py-1">
            <span className="flex items-baseline gap-2">
              <span className="min-w-0 flex-1 break-words">
                {c.text}
                {c.listAdditions.length > 0 && (
                  <span className="block text-[12px] text-soft">
                    The list is shared with other workflows.
                  </span>
                )}
              </span>
              <button
                className="press shrink-0 text-soft hover:underline"
                aria-expanded={open === i}
                onClick={() => setOpen(open === i ? null : i)}
              >
                {c.also === 0 ? 'nothing else' : `and ${c.also.toLocaleString('en')} more`}
              </button>
              <button className="link shrink-0" disabled={apply.isPending} onClick={() => apply.mutate(c)}>
                Change it
              </button>
            </span>
            {open === i && c.also > 0 && <MailLines messages={c.alsoTakes} total={c.also} />}
          </li>
        ))}
      </ul>
      {apply.error && <Problem error={apply.error} />}
    </div>
  );
}
