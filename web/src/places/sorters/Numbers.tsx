import { useMutation, useQueryClient } from '@tanstack/react-query';
import { api } from '@/api/client';
import { useMay } from '@/api/session';
import type { SorterView } from '@/api/types';
import { notify } from '@/parts/Notices';
import { SidePanel } from '@/parts/SidePanel';
import { Tag } from '@/parts/Tag';
import { when } from '@/parts/time';

const words = { InHand: 'in hand', InUse: 'in use', Past: 'was in use' } as const;
const tones = { InHand: 'amber', InUse: 'kelp', Past: 'soft' } as const;

/** The numbers of a sorter; each one that was in use can come back. */
export function Numbers({
  view,
  open,
  onClose,
  onUse,
}: {
  view: SorterView;
  open: boolean;
  onClose: () => void;
  onUse: (number: number) => void;
}) {
  const may = useMay('builder');
  const client = useQueryClient();
  const discard = useMutation({
    mutationFn: () => api.POST('/api/sorters/{id}/discard', { params: { path: { id: view.id } } }),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ['sorters'] });
      notify({ text: 'The settings in hand were dropped. Labels stay.' });
    },
  });
  return (
    <SidePanel title={`Numbers of ${view.name}`} open={open} onClose={onClose}>
      <ul>
        {view.numbers.map((n) => (
          <li key={n.number} className="border-b border-faint py-2">
            <p className="flex items-baseline gap-2">
              <b>Number {n.number}</b> <Tag tone={tones[n.state]}>{words[n.state]}</Tag>
              <span className="ml-auto">
                {may && n.state === 'Past' && (
                  <button className="link" onClick={() => onUse(n.number)}>
                    Use it again
                  </button>
                )}
                {may && n.state === 'InHand' && view.numbers.some((x) => x.state === 'InUse') && (
                  <button className="link" onClick={() => discard.mutate()}>
                    Drop it
                  </button>
                )}
              </span>
            </p>
            <p className="text-soft">
              Changed by {n.changedBy}, {when(n.changedAt)}.
              {n.trainedAt &&
                ` Trained on ${n.trainedOn.toLocaleString('en')} examples${n.trainedIn > 0 ? ` in ${(n.trainedIn / 1000).toFixed(1)} s` : ''}.`}
              {n.usedSince &&
                ` In use from ${when(n.usedSince)}${n.usedUntil ? ` until ${when(n.usedUntil)}` : ''}.`}
            </p>
          </li>
        ))}
      </ul>
      {discard.error && <p className="mt-2 text-rust">{discard.error.message}</p>}
    </SidePanel>
  );
}
