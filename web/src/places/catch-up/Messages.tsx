import { useState } from 'react';
import { Link } from '@tanstack/react-router';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { CatchUpDeed, CatchUpRow, RunOutcome } from '@/api/types';
import { Loaded } from '@/parts/States';
import { when } from '@/parts/time';

interface Props {
  run: number;
  outcome?: RunOutcome;
  draft: boolean;
  onExclude?: (row: CatchUpRow, exclude: boolean) => void;
  onAgain?: (row: CatchUpRow, deed: CatchUpDeed, again: boolean) => void;
}

const pageSize = 50;

/** The messages of a catch-up, with what is or was done to each, deed by deed. */
export function Messages({ run, outcome, draft, onExclude, onAgain }: Props) {
  const [skip, setSkip] = useState(0);
  const page = useQuery({
    queryKey: ['catch-up', run, 'messages', outcome, skip],
    queryFn: () =>
      body(
        api.GET('/api/catch-ups/{id}/messages', { params: { path: { id: run }, query: { outcome, skip } } }),
      ),
    placeholderData: keepPreviousData,
  });
  return (
    <Loaded query={page}>
      {({ messages, total }) => (
        <>
          <table className="table table-fixed">
            <tbody>
              {messages.map((m) => (
                <tr
                  key={m.messageId}
                  className={`align-baseline ${m.outcome === 'Excluded' ? 'opacity-60' : ''}`}
                >
                  {draft && (
                    <td className="w-[28px]">
                      <input
                        type="checkbox"
                        aria-label={`Carry out on ${m.subject || 'the message without a subject'}`}
                        checked={m.outcome !== 'Excluded'}
                        onChange={(e) => onExclude?.(m, !e.target.checked)}
                      />
                    </td>
                  )}
                  <td className="w-[104px] text-soft">{when(m.arrivedAt)}</td>
                  <td className="w-[38%]">
                    <Link
                      to="/mail"
                      search={{ id: m.messageId }}
                      className="block truncate font-semibold no-underline hover:underline"
                    >
                      {m.subject || '(no subject)'}
                    </Link>
                    <span className="block truncate text-soft">{m.senderName || m.senderAddress}</span>
                  </td>
                  <td className="!pr-0">
                    {m.outcome === 'Excluded' ? (
                      <span className="text-soft">taken out, nothing is done</span>
                    ) : m.outcome === 'Chosen' && !draft ? (
                      <span className="text-soft">still to come</span>
                    ) : !m.takenIn ? (
                      <span className="text-soft">
                        left alone: {m.because?.replace(/^left alone because /, '')}
                      </span>
                    ) : m.deeds.length === 0 ? (
                      <span className="text-soft">taken in, nothing to be done</span>
                    ) : (
                      <ul>
                        {m.deeds.map((d) => (
                          <Deed
                            key={`${d.kind}${d.target}${d.says}`}
                            deed={d}
                            onAgain={draft && onAgain ? (a) => onAgain(m, d, a) : undefined}
                          />
                        ))}
                      </ul>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {messages.length === 0 && <p className="py-3 text-soft">There is none.</p>}
          {total > pageSize && (
            <p className="mt-2 flex gap-4">
              <button
                className="link disabled:opacity-40"
                disabled={skip === 0}
                onClick={() => setSkip(skip - pageSize)}
              >
                Before
              </button>
              <span className="text-soft">
                {skip + 1} to {Math.min(skip + pageSize, total)} of {total.toLocaleString('en')}
              </span>
              <button
                className="link disabled:opacity-40"
                disabled={skip + pageSize >= total}
                onClick={() => setSkip(skip + pageSize)}
              >
                After
              </button>
            </p>
          )}
        </>
      )}
    </Loaded>
  );
}

export function Deed({ deed, onAgain }: { deed: CatchUpDeed; onAgain?: (again: boolean) => void }) {
  return (
    <li>
      <span className={`first-letter:uppercase ${deed.skipped ? 'text-soft line-through' : ''}`}>
        {deed.says}
      </span>
      {deed.skipped && <span className="text-soft"> {deed.skipped}</span>}
      {!deed.skipped && deed.held && <span className="text-plum"> waits: {deed.held}</span>}
      {deed.canRepeat && onAgain && (
        <label className="ml-2 inline-flex items-baseline gap-1">
          <input type="checkbox" checked={deed.again} onChange={(e) => onAgain(e.target.checked)} />
          do it again
        </label>
      )}
    </li>
  );
}
