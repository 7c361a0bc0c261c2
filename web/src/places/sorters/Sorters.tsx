import { useState } from 'react';
import { Link, useNavigate } from '@tanstack/react-router';
import { useMutation, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import { useMay } from '@/api/session';
import type { SorterRow } from '@/api/types';
import { Button } from '@/parts/Button';
import { TextField } from '@/parts/Field';
import { SidePanel } from '@/parts/SidePanel';
import { Loaded, Problem } from '@/parts/States';
import { Tag } from '@/parts/Tag';
import { percent } from '@/parts/percent';

/** The sorters, below the workflows that ask them. */
export function Sorters() {
  const may = useMay('builder');
  const [naming, setNaming] = useState(false);
  const sorters = useQuery({
    queryKey: ['sorters'],
    queryFn: () => body(api.GET('/api/sorters')) as Promise<SorterRow[]>,
  });
  return (
    <section aria-label="Sorters" className="mt-8">
      <header className="flex items-baseline gap-4 py-1">
        <h2 className="heading">Sorters</h2>
        <p className="flex-1 text-soft">
          A sorter learns categories from examples, says how sure it is, and leaves the rest to a person.
        </p>
        {may && <Button onClick={() => setNaming(true)}>Begin a sorter</Button>}
      </header>
      <Loaded query={sorters}>
        {(rows) =>
          rows.length === 0 ? (
            <p className="py-2 text-soft">
              There is no sorter yet. Begin one where keywords do not tell mail apart well enough.
            </p>
          ) : (
            <Table rows={rows} />
          )
        }
      </Loaded>
      <NewSorter open={naming} onClose={() => setNaming(false)} />
    </section>
  );
}

function Table({ rows }: { rows: SorterRow[] }) {
  return (
    <table className="table">
      <thead>
        <tr>
          <th>Sorter</th>
          <th>Number</th>
          <th className="num">Categories</th>
          <th className="num">Examples</th>
          <th className="num">Decides itself</th>
          <th className="num">Of those, right</th>
          <th>Asked by</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((s) => (
          <tr key={s.id} className="opens">
            <td className="font-semibold">
              <Link
                to="/workflows/sorters/$id"
                params={{ id: String(s.id) }}
                className="no-underline hover:underline"
              >
                {s.name}
              </Link>
            </td>
            <td>
              <span className="flex flex-wrap gap-1.5">
                {s.inUse !== null ? (
                  <Tag tone="kelp">{s.inUse} in use</Tag>
                ) : (
                  <Tag tone="soft">none in use</Tag>
                )}
                {s.inHand !== null && <Tag tone="amber">{s.inHand} in hand</Tag>}
              </span>
            </td>
            <td className="num">{s.categories}</td>
            <td className="num">{s.examples.toLocaleString('en')}</td>
            <td className="num">{s.decided && s.decided.of > 0 ? percent(s.decided.value) : '—'}</td>
            <td className="num">{s.right && s.right.of > 0 ? percent(s.right.value) : '—'}</td>
            <td className="text-soft">{s.usedBy.join(', ') || '—'}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function NewSorter({ open, onClose }: { open: boolean; onClose: () => void }) {
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const create = useMutation({
    mutationFn: () => body(api.POST('/api/sorters', { body: { name } })),
    onSuccess: (made) => {
      onClose();
      void navigate({ to: '/workflows/sorters/$id', params: { id: String(made!.id) } });
    },
  });
  return (
    <SidePanel title="Begin a sorter" open={open} onClose={onClose}>
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
          hint="It starts without categories. No workflow asks it until you say so on a sheet."
        />
        {create.error && <Problem error={create.error} />}
        <Button kind="main" type="submit" disabled={name.trim() === '' || create.isPending}>
          Begin
        </Button>
      </form>
    </SidePanel>
  );
}
