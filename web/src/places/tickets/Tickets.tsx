import { Link, useNavigate, useSearch } from '@tanstack/react-router';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { TicketPriority, TicketState } from '@/api/types';
import { Tag, type Tone } from '@/parts/Tag';
import { Empty, Loaded } from '@/parts/States';
import { when } from '@/parts/time';

const stateLooks: Record<TicketState, [Tone, string]> = {
  Open: ['sea', 'open'],
  Waiting: ['amber', 'waiting'],
  Closed: ['kelp', 'closed'],
};

export function TicketTag({ state }: { state: TicketState }) {
  const [tone, text] = stateLooks[state];
  return <Tag tone={tone}>{text}</Tag>;
}

export const priorityWords: Record<TicketPriority, string> = { Low: 'low', Normal: 'normal', High: 'high' };

/** Tickets: the list, narrowed by state and by text. */
export function Tickets() {
  const { state, text = '' } = useSearch({ from: '/tickets' });
  const navigate = useNavigate({ from: '/tickets' });
  const tickets = useQuery({
    queryKey: ['tickets', state, text],
    queryFn: () => body(api.GET('/api/tickets', { params: { query: { state, text } } })),
    placeholderData: keepPreviousData,
  });
  const tab = (s: TicketState | undefined, label: string, count: number) => (
    <button
      role="tab"
      aria-selected={state === s}
      onClick={() => void navigate({ search: { state: s, text: text || undefined } })}
      className="text-soft aria-selected:font-bold aria-selected:text-ink"
    >
      {label} {count}
    </button>
  );
  return (
    <div className="h-full overflow-y-auto px-6 pb-10">
      <header className="flex flex-wrap items-baseline gap-x-6 gap-y-1 py-3">
        <h1 className="title">Tickets</h1>
        {tickets.data && (
          <div role="tablist" aria-label="Which tickets" className="flex gap-4">
            {tab(undefined, 'All', tickets.data.open + tickets.data.waiting + tickets.data.closed)}
            {tab('Open', 'Open', tickets.data.open)}
            {tab('Waiting', 'Waiting', tickets.data.waiting)}
            {tab('Closed', 'Closed', tickets.data.closed)}
          </div>
        )}
        <input
          type="search"
          aria-label="Find a ticket"
          placeholder="Number, summary or sender"
          defaultValue={text}
          onChange={(e) =>
            void navigate({ search: { state, text: e.target.value || undefined }, replace: true })
          }
          className="boxed ml-auto w-[240px]"
        />
      </header>
      <Loaded query={tickets}>
        {(list) =>
          list.tickets.length === 0 ? (
            <Empty title="No ticket found">
              {text
                ? 'Nothing fits these words.'
                : 'Workflows open tickets for the mail they take in; at the desk T opens one by hand.'}
            </Empty>
          ) : (
            <>
              <table className="table table-fixed">
                <thead>
                  <tr>
                    <th className="w-[92px]">Number</th>
                    <th className="w-[84px]">State</th>
                    <th>Summary</th>
                    <th className="w-[140px]">Kind</th>
                    <th className="w-[76px]">Priority</th>
                    <th className="w-[200px]">From</th>
                    <th className="num w-[110px]">Opened</th>
                    <th className="num w-[110px] !pr-0">Last change</th>
                  </tr>
                </thead>
                <tbody>
                  {list.tickets.map((t) => (
                    <tr key={t.reference} className="opens">
                      <td className="font-mono font-semibold">
                        <Link
                          to="/tickets/$reference"
                          params={{ reference: t.reference }}
                          className="no-underline hover:underline"
                        >
                          {t.reference}
                        </Link>
                      </td>
                      <td>
                        <TicketTag state={t.state} />
                      </td>
                      <td className="truncate font-semibold">
                        <Link
                          to="/tickets/$reference"
                          params={{ reference: t.reference }}
                          className="no-underline hover:underline"
                        >
                          {t.summary}
                        </Link>
                      </td>
                      <td className="truncate">{t.label}</td>
                      <td className={t.priority === 'High' ? 'font-bold text-rust' : 'text-soft'}>
                        {priorityWords[t.priority]}
                      </td>
                      <td className="truncate text-soft">{t.requesterName || t.requesterAddress}</td>
                      <td className="num text-soft">{when(t.openedAt)}</td>
                      <td className="num !pr-0 text-soft">{when(t.changedAt)}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              {list.more && (
                <p className="py-2 text-soft">
                  These are the 300 changed last. Narrow the list to see others.
                </p>
              )}
            </>
          )
        }
      </Loaded>
    </div>
  );
}
