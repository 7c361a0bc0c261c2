import { useState } from 'react';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import { useMay } from '@/api/session';
import type { MessageSorting } from '@/api/types';
import { ReasonsFor } from './ReasonsFor';
import { keyOf, SuretyList } from './SuretyList';
import { percent } from './percent';
import { notify } from './Notices';
import { useKeys } from './useKeys';

interface Props {
  messageId: number;
  /** The queue item that is done with the decision. */
  itemId?: number;
  onSorted?: () => void;
}

/** What sorters said about a message, and a person's decision: it teaches the sorter, and the workflow goes on with it. */
export function SortByHand({ messageId, itemId, onSorted }: Props) {
  const sorting = useQuery({
    queryKey: ['sorting', messageId],
    queryFn: () =>
      body(api.GET('/api/messages/{messageId}/sorting', { params: { path: { messageId } } })) as Promise<
        MessageSorting[]
      >,
  });
  return (
    <>
      {sorting.data?.map((s) => (
        <One key={s.sorterId} sorting={s} {...{ messageId, itemId, onSorted }} />
      ))}
    </>
  );
}

function One({ sorting: s, messageId, itemId, onSorted }: Props & { sorting: MessageSorting }) {
  const may = useMay('desk');
  const [why, setWhy] = useState(false);
  const client = useQueryClient();
  const decide = useMutation({
    mutationFn: (categoryId: string | null) =>
      api.POST('/api/messages/{messageId}/sorting/{sorterId}', {
        params: { path: { messageId, sorterId: s.sorterId } },
        body: { categoryId, carryOut: true, itemId: itemId ?? null },
      }),
    onSuccess: (_, categoryId) => {
      for (const key of ['sorting', 'sorters', 'mail', 'queues'])
        void client.invalidateQueries({ queryKey: [key] });
      notify({ text: `Sorted as ${name(categoryId)}. ${s.sorter} learns from it.` });
      onSorted?.();
    },
    onError: (error) => notify({ text: error.message, tone: 'problem' }),
  });
  const name = (id: string | null) =>
    id === null ? 'none of these' : (s.names[id] ?? 'a category that is gone');
  const open = s.unsure && !s.labelled;
  const known = new Map(s.sureties.map((x) => [x.categoryId, x.surety]));
  const rows = [...Object.keys(s.names), null].map((categoryId) => ({
    categoryId,
    surety: known.get(categoryId) ?? 0,
  }));
  useKeys(
    may && open
      ? Object.fromEntries(
          rows.flatMap((r, i) => {
            const key = keyOf(i, r.categoryId);
            return key ? [[key, () => decide.mutate(r.categoryId)]] : [];
          }),
        )
      : {},
  );
  const said = s.labelled
    ? `${s.labelledBy} says ${name(s.labelledAs)}.`
    : s.unsure
      ? 'Unsure. Which is it?'
      : `${name(s.categoryId)}, surety ${percent(known.get(s.categoryId) ?? 0)}.`;
  return (
    <section aria-label="Sorting" className="mb-3 border-b border-line pb-3">
      <h2 className="caps mb-1">Sorted by {s.sorter}</h2>
      <details open={open}>
        <summary className={`py-0.5 ${open ? 'text-amber' : ''}`}>
          {said} {!open && may && <span className="link">Not right?</span>}
        </summary>
        <div className="mt-1">
          <SuretyList
            sureties={rows}
            name={(id) => (id === null ? 'None of these' : name(id))}
            letter={(i, id) => (open ? keyOf(i, id) : null)}
            onChoose={(id) => decide.mutate(id)}
            chosen={s.labelled ? s.labelledAs : undefined}
            disabled={!may || decide.isPending}
          />
          {s.workflows.length > 0 && (
            <p className="mt-1 text-[12.5px] text-soft">
              {s.workflows.map((w) => w.name).join(', ')} then {s.workflows.length === 1 ? 'does' : 'do'} what
              belongs to it. What was done already is not done again.
            </p>
          )}
        </div>
      </details>
      {s.sureties.some((x) => x.surety > 0) && (
        <details onToggle={(e) => setWhy(e.currentTarget.open)}>
          <summary className="link py-0.5">Why?</summary>
          {why && <ReasonsFor sorterId={s.sorterId} name={name} messageId={messageId} />}
        </details>
      )}
    </section>
  );
}
