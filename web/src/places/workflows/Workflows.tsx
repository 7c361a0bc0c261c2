import { useState } from 'react';
import { Link, useNavigate } from '@tanstack/react-router';
import { useMutation } from '@tanstack/react-query';
import { format } from 'date-fns';
import { api, body } from '@/api/client';
import { useMay } from '@/api/session';
import type { WorkflowRow } from '@/api/types';
import { Button } from '@/parts/Button';
import { TextField } from '@/parts/Field';
import { Reorder, ReorderRow } from '@/parts/Reorder';
import { SidePanel } from '@/parts/SidePanel';
import { Empty, Loaded } from '@/parts/States';
import { Tag } from '@/parts/Tag';
import { useWorkflows } from '@/parts/useWorkflows';
import { BringIn } from './BringIn';
import { Overlaps } from './Overlaps';
import { Sorters } from '../sorters/Sorters';
import { moveTo } from './sheet';

/** Workflows in the order in which they see a message. */
export function Workflows() {
  const may = useMay('builder');
  const [naming, setNaming] = useState(false);
  const [bringing, setBringing] = useState(false);
  const workflows = useWorkflows();
  return (
    <div className="h-full overflow-y-auto px-6 pb-10">
      <header className="flex items-baseline gap-4 py-3">
        <h1 className="title">Workflows</h1>
        <p className="flex-1 text-soft">
          A message goes down this table until a workflow takes it in and skips the later ones.
        </p>
        {may && (
          <>
            <Button onClick={() => setBringing(true)}>Bring in a file</Button>
            <Button kind="main" onClick={() => setNaming(true)}>
              Begin a workflow
            </Button>
          </>
        )}
      </header>
      <Loaded query={workflows}>
        {(rows) =>
          rows.length === 0 ? (
            <>
              <Empty title="There is no workflow yet">
                A workflow says which mail it takes in, how it is sorted and what then happens. You can
                rehearse it on past mail before it touches anything.
              </Empty>
              <Sorters />
            </>
          ) : (
            <>
              <Table rows={rows} may={may} />
              <Sorters />
              {rows.filter((r) => r.liveEdition !== null && !r.paused).length > 1 && <Overlaps />}
            </>
          )
        }
      </Loaded>
      <BringIn open={bringing} onClose={() => setBringing(false)} />
      <NewWorkflow open={naming} onClose={() => setNaming(false)} />
    </div>
  );
}

function Table({ rows, may }: { rows: WorkflowRow[]; may: boolean }) {
  const order = useMutation({
    mutationFn: (ids: number[]) => api.PUT('/api/workflows/order', { body: { ids } }),
  });
  const pause = useMutation({
    mutationFn: (w: WorkflowRow) =>
      api.PUT('/api/workflows/{id}/paused', { params: { path: { id: w.id }, query: { paused: !w.paused } } }),
  });
  const ids = rows.map((r) => r.id);
  const move = (from: number, to: number) => {
    const moved = moveTo(ids, from, to);
    if (moved !== ids) order.mutate(moved);
  };
  return (
    <table className="table">
      <thead>
        <tr>
          <th className="w-[74px]">Order</th>
          <th>Workflow</th>
          <th>Mail to</th>
          <th>Edition</th>
          <th className="num">Lines</th>
          <th className="num">Messages, 7 days</th>
          <th className="num">Deeds</th>
          <th className="num">Stuck</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <Reorder ids={ids} onMove={move}>
          {rows.map((w, i) => (
            <ReorderRow
              key={w.id}
              id={w.id}
              name={w.name}
              index={i}
              onMove={move}
              disabled={!may}
              className={`opens ${w.paused ? 'text-soft' : ''}`}
            >
              {(handle) => (
                <>
                  <td className="whitespace-nowrap">
                    {i + 1} {handle}
                  </td>
                  <td className="font-semibold">
                    <Link
                      to="/workflows/$id"
                      params={{ id: String(w.id) }}
                      className="no-underline hover:underline"
                    >
                      {w.name}
                    </Link>
                  </td>
                  <td className="text-soft">
                    {w.addresses.length === 0
                      ? 'every address'
                      : w.addresses.map((a) => a.split('@')[0]).join(', ')}
                  </td>
                  <td>
                    <span className="flex flex-wrap gap-1.5">
                      {w.paused && <Tag tone="soft">paused</Tag>}
                      {w.liveEdition !== null ? (
                        <Tag tone="kelp">
                          {w.liveEdition} live since {format(new Date(w.liveSince!), 'd MMM')}
                        </Tag>
                      ) : (
                        <Tag tone="soft">never live</Tag>
                      )}
                      {w.editionInHand !== null && <Tag tone="amber">{w.editionInHand} in hand</Tag>}
                    </span>
                  </td>
                  <td className="num">{w.lines}</td>
                  <td className="num">
                    {w.takenInLastWeek === 0 ? (
                      '—'
                    ) : (
                      <Link to="/mail" search={{ workflow: w.id }} className="link">
                        {w.takenInLastWeek}
                      </Link>
                    )}
                  </td>
                  <td className="num">{w.deedsLastWeek || '—'}</td>
                  <td className={`num ${w.stuckDeeds > 0 ? 'font-bold text-rust' : ''}`}>
                    {w.stuckDeeds || '—'}
                  </td>
                  <td className="num !pr-0">
                    {may && (
                      <button className="link" onClick={() => pause.mutate(w)}>
                        {w.paused ? 'Go on' : 'Pause'}
                      </button>
                    )}
                  </td>
                </>
              )}
            </ReorderRow>
          ))}
        </Reorder>
      </tbody>
    </table>
  );
}

function NewWorkflow({ open, onClose }: { open: boolean; onClose: () => void }) {
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const create = useMutation({
    mutationFn: () => body(api.POST('/api/workflows', { body: { name } })),
    onSuccess: (made) => {
      onClose();
      void navigate({ to: '/workflows/$id', params: { id: String(made.id) } });
    },
  });
  return (
    <SidePanel title="Begin a workflow" open={open} onClose={onClose}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          create.mutate();
        }}
      >
        <TextField
          label="Name"
          autoFocus
          value={name}
          onChange={(e) => setName(e.target.value)}
          hint="It starts as an edition in hand at the end of the order. Nothing happens to mail until you put it live."
        />
        <Button kind="main" type="submit" disabled={name.trim() === '' || create.isPending}>
          Begin
        </Button>
      </form>
    </SidePanel>
  );
}
