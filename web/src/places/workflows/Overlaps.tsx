import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { OverlapRow, OverlapsView } from '@/api/types';
import { MailLines } from '@/parts/MailLines';
import { Loaded } from '@/parts/States';

/** Which messages of the last 90 days two live workflows both take in, and which both would answer. */
export function Overlaps() {
  const overlaps = useQuery({
    queryKey: ['workflows', 'overlaps'],
    queryFn: () =>
      body(api.GET('/api/workflows/overlaps', { params: { query: { days: 90 } } })) as Promise<OverlapsView>,
  });
  return (
    <section aria-label="Overlaps" className="mt-6">
      <h2 className="heading">Overlaps</h2>
      <Loaded query={overlaps}>{(view) => <Map view={view} />}</Loaded>
    </section>
  );
}

function Map({ view }: { view: OverlapsView }) {
  const [open, setOpen] = useState<OverlapRow | null>(null);
  const [answered, setAnswered] = useState(false);
  const name = (id: number) => view.workflows.find((w) => w.id === id)?.name ?? 'gone';
  const pair = (first: number, second: number) =>
    view.pairs.find((p) => p.first === first && p.second === second);
  if (view.pairs.length === 0)
    return (
      <p className="text-soft">
        Of {view.messages.toLocaleString('en')} messages of the last 90 days none is taken in by two live
        workflows.
      </p>
    );
  return (
    <>
      <p className="mb-2 max-w-[80ch] text-soft">
        {view.messages.toLocaleString('en')} messages of the last 90 days, each workflow asked by itself.
        Beside its name stands what it takes in; where a row meets a column, both take that many.
      </p>
      <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Map of overlaps">
        <table className="border-collapse bg-sheet">
          <thead>
            <tr>
              <th />
              {view.workflows.slice(1).map((w) => (
                <th
                  key={w.id}
                  className="max-w-[110px] px-2 py-1 text-left align-bottom text-[12.5px] font-semibold"
                >
                  {w.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {view.workflows.slice(0, -1).map((row, i) => (
              <tr key={row.id}>
                <th className="border border-line px-2 py-1 text-left font-semibold whitespace-nowrap">
                  {row.name}{' '}
                  <span className="font-normal text-soft">
                    {(view.taken[String(row.id)] ?? 0).toLocaleString('en')}
                  </span>
                </th>
                {view.workflows.slice(1).map((column, j) => {
                  const p = j >= i ? pair(row.id, column.id) : undefined;
                  return (
                    <td
                      key={column.id}
                      className={`border border-line p-0 text-right ${j < i ? 'bg-faint' : ''} ${p && p === open ? 'bg-sea-wash' : ''}`}
                    >
                      {p ? (
                        <button
                          className="w-full px-2 py-1 text-right font-semibold hover:underline"
                          aria-expanded={p === open}
                          aria-label={`${p.both} messages taken by ${row.name} and ${column.name}`}
                          onClick={() => {
                            setOpen(p === open ? null : p);
                            setAnswered(false);
                          }}
                        >
                          {p.both.toLocaleString('en')}
                          {p.answered > 0 && (
                            <span className="block text-[12px] font-normal text-amber">
                              both would answer {p.answered.toLocaleString('en')}
                            </span>
                          )}
                        </button>
                      ) : (
                        j >= i && <span className="block px-2 py-1 text-soft">—</span>
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {open && (
        <div className="mt-3 max-w-[860px] border border-l-[3px] border-line border-l-sea bg-sheet px-3 py-2">
          <p className="mb-1">
            <strong>{name(open.first)}</strong> and <strong>{name(open.second)}</strong> both take{' '}
            {open.both.toLocaleString('en')}.{' '}
            {open.skipped
              ? `${name(open.first)} goes first and skips later workflows, so ${name(open.second)} does not see them.`
              : 'Both act on them, one after the other.'}{' '}
            {open.answered > 0 && !open.skipped && (
              <span className="text-amber">Both would reply to {open.answered.toLocaleString('en')}.</span>
            )}
          </p>
          {open.answered > 0 && (
            <label className="mb-1 flex items-center gap-2">
              <input type="checkbox" checked={answered} onChange={(e) => setAnswered(e.target.checked)} />
              only the {open.answered.toLocaleString('en')} both would answer
            </label>
          )}
          <MailLines
            messages={answered ? open.answeredMessages : open.messages}
            total={answered ? open.answered : open.both}
          />
        </div>
      )}
    </>
  );
}
