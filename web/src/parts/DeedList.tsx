import { useState } from 'react';
import { useMutation } from '@tanstack/react-query';
import { api } from '@/api/client';
import { useMay } from '@/api/session';
import type { DeedState, DeedView } from '@/api/types';
import { Tag, type Tone } from './Tag';
import { when } from './time';

const states: Record<DeedState, [Tone, string]> = {
  Waiting: ['amber', 'waiting'],
  Checking: ['plum', 'waits for checking'],
  Delayed: ['amber', 'scheduled'],
  UnderWay: ['amber', 'under way'],
  Done: ['kelp', 'done'],
  Skipped: ['soft', 'skipped'],
  Stuck: ['rust', 'stuck'],
  Dropped: ['soft', 'stopped'],
};

export function DeedTag({ state }: { state: DeedState }) {
  const [tone, text] = states[state];
  return <Tag tone={tone}>{text}</Tag>;
}

/** Deeds with their state, reason and history; a stuck one can be tried again or stopped. */
export function DeedList({ deeds }: { deeds: DeedView[] }) {
  return (
    <ul>
      {deeds.map((d) => (
        <Deed key={d.id} deed={d} />
      ))}
    </ul>
  );
}

function Deed({ deed }: { deed: DeedView }) {
  const [open, setOpen] = useState(deed.state === 'Stuck');
  const keeper = useMay('keeper');
  const act = useMutation({
    mutationFn: (what: 'retry' | 'drop') =>
      what === 'retry'
        ? api.POST('/api/deeds/{id}/retry', { params: { path: { id: deed.id } } })
        : api.POST('/api/deeds/{id}/drop', { params: { path: { id: deed.id } } }),
  });
  return (
    <li className="border-b border-faint py-1.5">
      <button
        className="flex w-full items-baseline gap-2 text-left"
        onClick={() => setOpen(!open)}
        aria-expanded={open}
      >
        <span className="min-w-0 flex-1 break-words first-letter:uppercase">{deed.says}</span>
        <DeedTag state={deed.state} />
      </button>
      {deed.because && <p className="break-words text-soft">{deed.because}</p>}
      {deed.notBefore && ['Delayed', 'Waiting'].includes(deed.state) && (
        <p className="text-soft">
          {deed.attempts > 0 ? `try ${deed.attempts + 1}` : 'goes out'} at {when(deed.notBefore)}
        </p>
      )}
      {open && (
        <ol className="mt-1 text-[12.5px] text-soft">
          {deed.history.map((h, i) => (
            <li key={i} className="flex gap-2">
              <span className="w-[86px] shrink-0">{when(h.at)}</span>
              <span className="min-w-0 break-words">
                {states[h.state][1]}
                {h.note && `: ${h.note}`}
                {h.person && `, ${h.person}`}
              </span>
            </li>
          ))}
        </ol>
      )}
      {deed.state === 'Stuck' && keeper && (
        <p className="mt-1 flex gap-4">
          <button className="link" onClick={() => act.mutate('retry')}>
            Try again
          </button>
          <button className="link" onClick={() => act.mutate('drop')}>
            Stop it
          </button>
        </p>
      )}
    </li>
  );
}
