import { useSearch } from '@tanstack/react-router';
import { useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import { Loaded } from '@/parts/States';
import { Choose } from './Choose';
import { Preview } from './Preview';
import { Progress } from './Progress';

/** Catch-up: a workflow carried out on old messages. Chosen, looked over, confirmed, watched. */
export function CatchUp() {
  const { run } = useSearch({ from: '/catch-up' });
  return (
    <div className="h-full overflow-y-auto px-6 pb-10" tabIndex={0} role="region" aria-label="Catch-up">
      {run === undefined ? <Choose /> : <OneRun key={run} id={run} />}
    </div>
  );
}

function OneRun({ id }: { id: number }) {
  const run = useQuery({
    queryKey: ['catch-up', id, 'run'],
    queryFn: () => body(api.GET('/api/log/runs/{id}', { params: { path: { id } } })),
    refetchInterval: (q) =>
      q.state.data?.state === 'Running' || (q.state.data?.waiting ?? 0) > 0 ? 700 : false,
  });
  return (
    <Loaded query={run}>{(r) => (r.state === 'Draft' ? <Preview run={r} /> : <Progress run={r} />)}</Loaded>
  );
}
