import { useState } from 'react';
import { useNavigate } from '@tanstack/react-router';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { CatchUpPreview, RunOutcome, RunView } from '@/api/types';
import { Button } from '@/parts/Button';
import { Loaded } from '@/parts/States';
import { Messages } from './Messages';

export const deedWords: Record<string, [string, string]> = {
  Place: ['placed in a queue', 'placed in queues'],
  Ticket: ['ticket opened or added to', 'tickets opened or added to'],
  File: ['time files are saved', 'times files are saved'],
  Reply: ['reply written', 'replies written'],
  PassOn: ['passed on', 'passed on'],
  Mailbox: ['effect in the mailbox', 'effects in the mailbox'],
};

/** Exactly what would be done, message by message and deed by deed, before it is confirmed. */
export function Preview({ run }: { run: RunView }) {
  const client = useQueryClient();
  const navigate = useNavigate({ from: '/catch-up' });
  const [outcome, setOutcome] = useState<RunOutcome | undefined>();
  const path = { params: { path: { id: run.id } } };
  const preview = useQuery({
    queryKey: ['catch-up', run.id, 'preview'],
    queryFn: () => body(api.GET('/api/catch-ups/{id}/preview', path)),
  });
  const anew = () => client.invalidateQueries({ queryKey: ['catch-up', run.id] });
  const change = useMutation({ mutationFn: (send: () => Promise<unknown>) => send(), onSettled: anew });
  const confirm = useMutation({
    mutationFn: () => api.POST('/api/catch-ups/{id}/confirm', path),
    onSuccess: anew,
  });
  const discard = useMutation({
    mutationFn: () => api.DELETE('/api/catch-ups/{id}', path),
    onSuccess: () => void navigate({ search: {} }),
  });
  const error = change.error ?? confirm.error ?? discard.error;
  return (
    <>
      <header className="py-3">
        <h1 className="title">
          Catch-up: {run.workflow} <span className="text-soft">edition {run.edition}</span>
        </h1>
        <p className="text-soft">On {run.choice}. Nothing is done yet.</p>
      </header>
      <Loaded query={preview}>
        {(p) => (
          <div className="grid grid-cols-[minmax(0,1fr)_300px] gap-7">
            <section aria-label="Messages" className="min-w-0">
              <p className="mb-1 flex flex-wrap gap-x-4 border-b border-ink pb-1">
                <Part
                  label={`${p.chosen + p.excluded} chosen`}
                  on={outcome === undefined}
                  onClick={() => setOutcome(undefined)}
                />
                <Part
                  label={`${p.takenIn} would be taken in`}
                  on={outcome === 'TakenIn'}
                  onClick={() => setOutcome('TakenIn')}
                />
                <Part
                  label={`${p.leftAlone} left alone`}
                  on={outcome === 'LeftAlone'}
                  onClick={() => setOutcome('LeftAlone')}
                />
                {p.excluded > 0 && (
                  <Part
                    label={`${p.excluded} taken out`}
                    on={outcome === 'Excluded'}
                    onClick={() => setOutcome('Excluded')}
                  />
                )}
              </p>
              <Messages
                key={outcome ?? 'all'}
                run={run.id}
                outcome={outcome}
                draft
                onExclude={(row, exclude) =>
                  change.mutate(() =>
                    api.POST('/api/catch-ups/{id}/exclude', {
                      ...path,
                      body: { messageIds: [row.messageId], exclude },
                    }),
                  )
                }
                onAgain={(row, deed, again) =>
                  change.mutate(() =>
                    api.POST('/api/catch-ups/{id}/again', {
                      ...path,
                      body: { messageId: row.messageId, kind: deed.kind, target: deed.target, again },
                    }),
                  )
                }
              />
            </section>
            <aside aria-label="What would be done">
              <Counts preview={p} />
              <label className="mb-3 flex items-baseline gap-2">
                <input
                  type="checkbox"
                  checked={run.sendReplies}
                  onChange={(e) =>
                    change.mutate(() =>
                      api.POST('/api/catch-ups/{id}/send-replies', {
                        ...path,
                        body: { send: e.target.checked },
                      }),
                    )
                  }
                />
                Send replies as the lines say, without checking
              </label>
              {error && (
                <p role="alert" className="mb-3 font-semibold text-rust">
                  {error.message}
                </p>
              )}
              <p className="flex gap-3">
                <Button
                  kind="main"
                  disabled={confirm.isPending || p.chosen === 0}
                  onClick={() => confirm.mutate()}
                >
                  Carry out on {p.chosen}
                </Button>
                <Button kind="quiet" onClick={() => discard.mutate()}>
                  Discard
                </Button>
              </p>
            </aside>
          </div>
        )}
      </Loaded>
    </>
  );
}

function Part({ label, on, onClick }: { label: string; on: boolean; onClick: () => void }) {
  return (
    <button
      aria-pressed={on}
      className="text-soft aria-pressed:font-semibold aria-pressed:text-ink hover:underline"
      onClick={onClick}
    >
      {label}
    </button>
  );
}

function Counts({ preview }: { preview: CatchUpPreview }) {
  return (
    <>
      <h2 className="heading border-b border-ink pb-0.5">What would be done</h2>
      {preview.counts.length === 0 && <p className="py-2 text-soft">Nothing.</p>}
      <table className="table mb-4">
        <tbody>
          {preview.counts.map((c) => (
            <tr key={c.kind} className="align-baseline">
              <td className="num w-[40px] font-semibold">{c.made}</td>
              <td className="!pr-0">
                {(deedWords[c.kind] ?? ['', ''])[c.made === 1 ? 0 : 1]}
                {c.held > 0 && <span className="block text-plum">{c.held} wait for checking</span>}
                {c.skipped > 0 && (
                  <span className="block text-soft">{c.skipped} skipped, with their reasons</span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <h2 className="heading border-b border-ink pb-0.5">Who would be written to</h2>
      {preview.writtenTo.length === 0 ? (
        <p className="mb-4 py-2 text-soft">Nobody.</p>
      ) : (
        <ul className="mt-1 mb-4 max-h-[200px] overflow-y-auto break-all" tabIndex={0} aria-label="Addresses">
          {preview.writtenTo.map((a) => (
            <li key={a}>{a}</li>
          ))}
        </ul>
      )}
    </>
  );
}
