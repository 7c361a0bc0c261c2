import { useState } from 'react';
import { useMutation, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { WorkflowView } from '@/api/types';
import { Button } from '@/parts/Button';
import { SidePanel } from '@/parts/SidePanel';
import { Loaded } from '@/parts/States';
import { Tag } from '@/parts/Tag';
import { when } from '@/parts/time';

interface Props {
  view: WorkflowView;
  open: boolean;
  onClose: () => void;
  onBroughtBack: (view: WorkflowView) => void;
  may: boolean;
}

/** All editions of a workflow, compared two by two; any of them can come back as the edition in hand. */
export function PastEditions({ view, open, onClose, onBroughtBack, may }: Props) {
  const numbers = view.editions.map((e) => e.number);
  const [pair, setPair] = useState<{ from: number; to: number } | null>(null);
  const from = pair?.from ?? numbers[1] ?? numbers[0]!;
  const to = pair?.to ?? numbers[0]!;
  const comparison = useQuery({
    queryKey: ['workflows', view.id, 'compare', from, to, view.revision],
    queryFn: () =>
      body(
        api.GET('/api/workflows/{id}/compare', { params: { path: { id: view.id }, query: { from, to } } }),
      ),
    enabled: open,
  });
  const bringBack = useMutation({
    mutationFn: (number: number) =>
      body(
        api.POST('/api/workflows/{id}/bring-back', { params: { path: { id: view.id }, query: { number } } }),
      ) as Promise<WorkflowView>,
    onSuccess: (next) => {
      onBroughtBack(next);
      onClose();
    },
  });
  const choose = (which: 'from' | 'to', value: number) => (
    <select
      aria-label={which === 'from' ? 'Older edition' : 'Newer edition'}
      className="boxed"
      value={value}
      onChange={(e) => setPair({ from, to, [which]: Number(e.target.value) })}
    >
      {numbers.map((n) => (
        <option key={n} value={n}>
          edition {n}
        </option>
      ))}
    </select>
  );
  return (
    <SidePanel title={`Editions of ${view.name}`} open={open} onClose={onClose} wide>
      <table className="table mb-5">
        <thead>
          <tr>
            <th>Edition</th>
            <th>Last change</th>
            <th>Live</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {view.editions.map((e) => (
            <tr key={e.number}>
              <td>
                {e.number}{' '}
                {e.state === 'Live' ? (
                  <Tag tone="kelp">live</Tag>
                ) : e.state === 'InHand' ? (
                  <Tag tone="amber">in hand</Tag>
                ) : null}
              </td>
              <td>
                {when(e.changedAt)}, {e.changedBy}
              </td>
              <td className="text-soft">
                {e.liveSince
                  ? `${when(e.liveSince)}${e.liveUntil ? ` to ${when(e.liveUntil)}` : ', until now'}`
                  : '—'}
              </td>
              <td className="num !pr-0">
                {may && e.state === 'Past' && (
                  <Button kind="quiet" className="!px-0" onClick={() => bringBack.mutate(e.number)}>
                    Bring back as the edition in hand
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {numbers.length > 1 && (
        <>
          <p className="mb-2 flex items-center gap-2">
            What changed from {choose('from', from)} to {choose('to', to)}
          </p>
          <Loaded query={comparison}>
            {(changes) =>
              changes.length === 0 ? (
                <p className="text-soft">Nothing.</p>
              ) : (
                <table className="table">
                  <tbody>
                    {changes.map((c, i) => (
                      <tr key={i}>
                        <td className="band w-[92px] !text-[14.5px]">{c.band}</td>
                        <td className="break-words">
                          {c.before && <del className="block text-soft">{c.before}</del>}
                          {c.after && (
                            <span className="block">
                              → <strong>{c.after}</strong>
                            </span>
                          )}
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              )
            }
          </Loaded>
        </>
      )}
    </SidePanel>
  );
}
