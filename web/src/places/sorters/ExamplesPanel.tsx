import { useState } from 'react';
import { Link } from '@tanstack/react-router';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import { useMay } from '@/api/session';
import type { ExampleRow, SorterView } from '@/api/types';
import { notify } from '@/parts/Notices';
import { SidePanel } from '@/parts/SidePanel';
import { Loaded } from '@/parts/States';
import { when } from '@/parts/time';
import { ReasonsFor } from '@/parts/ReasonsFor';
import { percent } from '@/parts/percent';
import { nameOf } from './words';

/** Which examples a number stands for. */
export interface ExampleChoice {
  title: string;
  is?: string;
  said?: string;
  unsure?: boolean;
  doubtful?: boolean;
  changedTo?: boolean;
}

const pageSize = 50;
const sources: Record<ExampleRow['source'], string> = {
  Labelling: 'labelled',
  SortedByHand: 'sorted by hand',
  NotRight: 'corrected',
  Folder: 'brought in',
  PastRouting: 'from a queue',
};

/** The examples behind a number; each can get another label, or none. */
export function ExamplesPanel({
  view,
  choice,
  onClose,
}: {
  view: SorterView;
  choice: ExampleChoice | null;
  onClose: () => void;
}) {
  return (
    <SidePanel title={choice?.title ?? ''} open={choice !== null} onClose={onClose} wide>
      {choice && <List key={JSON.stringify(choice)} view={view} choice={choice} />}
    </SidePanel>
  );
}

function List({ view, choice }: { view: SorterView; choice: ExampleChoice }) {
  const [from, setFrom] = useState(0);
  const [open, setOpen] = useState<number | null>(null);
  const { title: _, ...query } = choice;
  const page = useQuery({
    queryKey: ['sorters', view.id, 'examples', query, from],
    placeholderData: keepPreviousData,
    queryFn: () =>
      body(
        api.GET('/api/sorters/{id}/examples', {
          params: { path: { id: view.id }, query: { ...query, from } },
        }),
      ) as Promise<{ examples: ExampleRow[]; total: number }>,
  });
  return (
    <Loaded query={page}>
      {({ examples, total }) =>
        total === 0 ? (
          <p className="text-soft">There is no such example.</p>
        ) : (
          <>
            <p className="mb-1 text-soft">{total.toLocaleString('en')} in all, the newest label first.</p>
            <ul className="border-t border-ink">
              {examples.map((e) => (
                <Row
                  key={e.messageId}
                  view={view}
                  example={e}
                  open={open === e.messageId}
                  onOpen={() => setOpen(open === e.messageId ? null : e.messageId)}
                />
              ))}
            </ul>
            {total > pageSize && (
              <p className="mt-2 flex gap-4">
                <button className="link" disabled={from === 0} onClick={() => setFrom(from - pageSize)}>
                  Newer
                </button>
                <button
                  className="link"
                  disabled={from + pageSize >= total}
                  onClick={() => setFrom(from + pageSize)}
                >
                  Older
                </button>
              </p>
            )}
          </>
        )
      }
    </Loaded>
  );
}

function Row({
  view,
  example: e,
  open,
  onOpen,
}: {
  view: SorterView;
  example: ExampleRow;
  open: boolean;
  onOpen: () => void;
}) {
  const may = useMay('builder');
  const client = useQueryClient();
  const stale = () => void client.invalidateQueries({ queryKey: ['sorters'] });
  const put = useMutation({
    mutationFn: ({ categoryId }: { categoryId: string | null; undone?: boolean }) =>
      api.PUT('/api/sorters/{id}/labels', {
        params: { path: { id: view.id } },
        body: { messageId: e.messageId, categoryId },
      }),
    onSuccess: (_, { categoryId, undone }) => {
      stale();
      if (!undone)
        notify({
          text: `Now labelled ${nameOf(view.settings, categoryId)}.`,
          undo: () => put.mutate({ categoryId: e.categoryId, undone: true }),
        });
    },
  });
  const remove = useMutation({
    mutationFn: () =>
      api.DELETE('/api/sorters/{id}/labels/{messageId}', {
        params: { path: { id: view.id, messageId: e.messageId } },
      }),
    onSuccess: () => {
      stale();
      notify({
        text: 'The label was removed.',
        undo: () => put.mutate({ categoryId: e.categoryId, undone: true }),
      });
    },
  });
  const p = e.prediction;
  return (
    <li className="border-b border-faint py-2">
      <div className="flex items-start gap-3">
        <button className="press min-w-0 flex-1 text-left" onClick={onOpen} aria-expanded={open}>
          <span className="block truncate font-semibold">{e.subject || '(no subject)'}</span>
          <span className="block truncate text-[12.5px] text-soft">
            {e.senderAddress} · {when(e.arrivedAt)} · {sources[e.source]} by {e.by}
          </span>
          {p && p.said !== p.is && (
            <span className="block text-[12.5px] text-amber">
              reads like {nameOf(view.settings, p.said)}, surety {percent(p.surety)}
            </span>
          )}
        </button>
        <select
          className="boxed w-[170px]"
          aria-label={`Label of ${e.subject}`}
          disabled={!may || put.isPending}
          value={e.categoryId ?? ''}
          onChange={(x) => put.mutate({ categoryId: x.target.value === '' ? null : x.target.value })}
        >
          {view.settings.categories.map((c) => (
            <option key={c.id} value={c.id}>
              {c.name}
            </option>
          ))}
          <option value="">None of these</option>
        </select>
        {may && (
          <button className="link" onClick={() => remove.mutate()}>
            Remove
          </button>
        )}
      </div>
      {open && (
        <div className="mt-2 border-l-2 border-line pl-3">
          <ReasonsFor
            sorterId={view.id}
            name={(id) => nameOf(view.settings, id)}
            messageId={e.messageId}
            inHand
          />
          <Link to="/mail" search={{ id: e.messageId }} className="link">
            Open the message
          </Link>
        </div>
      )}
    </li>
  );
}
