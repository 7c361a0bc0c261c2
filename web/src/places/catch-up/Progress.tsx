import { useState } from 'react';
import { Link } from '@tanstack/react-router';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { api } from '@/api/client';
import type { RunOutcome, RunView } from '@/api/types';
import { Button } from '@/parts/Button';
import { when } from '@/parts/time';
import { Messages } from './Messages';

/** A catch-up under way or done: how far it is, and accounts in which every number opens. */
export function Progress({ run }: { run: RunView }) {
  const client = useQueryClient();
  const [outcome, setOutcome] = useState<RunOutcome | undefined>();
  const chosen = run.lookedAt - run.excluded;
  const done = chosen - run.toCome;
  const act = useMutation({
    mutationFn: (what: 'stop' | 'resume') =>
      what === 'stop'
        ? api.POST('/api/catch-ups/{id}/stop', { params: { path: { id: run.id } } })
        : api.POST('/api/catch-ups/{id}/resume', { params: { path: { id: run.id } } }),
    onSettled: () => client.invalidateQueries({ queryKey: ['catch-up', run.id] }),
  });
  const open = (label: string, of: RunOutcome | undefined) => (
    <button className="link" aria-pressed={outcome === of} onClick={() => setOutcome(of)}>
      {label}
    </button>
  );
  const deeds = (label: string, show?: string) => (
    <Link to="/log" search={{ tab: 'deeds', run: run.id, outcome: show }} className="link">
      {label}
    </Link>
  );
  return (
    <>
      <header className="py-3">
        <h1 className="title">
          Catch-up: {run.workflow} <span className="text-soft">edition {run.edition}</span>
        </h1>
        <p className="text-soft">
          On {run.choice}. Begun {when(run.startedAt)} by {run.person}
          {run.endedAt && `, finished ${when(run.endedAt)}`}.
        </p>
      </header>
      {run.state !== 'Finished' && (
        <div className="mb-4 flex items-center gap-4">
          <progress className="h-2 w-[320px]" max={chosen} value={done} aria-label="Messages dealt with" />
          <span role="status">
            {done.toLocaleString('en')} of {chosen.toLocaleString('en')} messages
            {run.state === 'Stopped' && ', stopped; what was done stays done'}
          </span>
          {run.state === 'Running' ? (
            <Button onClick={() => act.mutate('stop')}>Stop</Button>
          ) : (
            <Button kind="main" onClick={() => act.mutate('resume')}>
              Go on
            </Button>
          )}
        </div>
      )}
      {run.problem && <p className="mb-3 font-semibold text-rust">{run.problem}</p>}
      <dl className="mb-5 border-y border-line py-2 leading-7">
        <dd>
          {open(`${chosen} chosen`, undefined)} = {open(`${run.takenIn} taken in`, 'TakenIn')} +{' '}
          {open(`${run.leftAlone} left alone`, 'LeftAlone')}
          {run.toCome > 0 && <> + {open(`${run.toCome} to come`, 'Chosen')}</>}
          {run.excluded > 0 && (
            <span className="text-soft"> (and {open(`${run.excluded} taken out by hand`, 'Excluded')})</span>
          )}
        </dd>
        <dd>
          {deeds(`${run.planned} planned`)} = {deeds(`${run.done} done`, 'Done')} +{' '}
          {deeds(`${run.waiting} waiting`, 'Waiting')} + {deeds(`${run.stuck} stuck`, 'Stuck')} +{' '}
          <Link to="/log" search={{ run: run.id }} className="link">
            {run.skipped} skipped
          </Link>
        </dd>
      </dl>
      <Messages key={`${outcome ?? 'all'} ${run.state}`} run={run.id} outcome={outcome} draft={false} />
      <p className="mt-4">
        <Link to="/catch-up" className="link">
          Another catch-up
        </Link>
      </p>
    </>
  );
}
