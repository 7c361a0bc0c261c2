import { Link } from '@tanstack/react-router';
import { useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { SorterReasons } from '@/api/types';
import { Loaded } from './States';
import { percent } from './percent';

interface Props {
  sorterId: number;
  /** What a category is called. */
  name: (id: string | null) => string;
  messageId: number;
  /** Whether the number in hand is asked, or the one in use. */
  inHand?: boolean;
}

/** Why a sorter says what it says: the words for and against, adding up to the score, and the nearest examples. */
export function ReasonsFor({ sorterId, name, messageId, inHand = false }: Props) {
  const reasons = useQuery({
    queryKey: ['sorters', sorterId, 'reasons', messageId, inHand],
    queryFn: () =>
      body(
        api.GET('/api/sorters/{id}/reasons/{messageId}', {
          params: { path: { id: sorterId, messageId }, query: { inHand } },
        }),
      ) as Promise<SorterReasons>,
  });
  return (
    <Loaded query={reasons}>
      {({ explanation: e, number, nearest }) => (
        <div className="mb-2 text-[12.5px]">
          <p>
            Number {number} says <b>{name(e.decision.categoryId)}</b>, surety {percent(e.decision.surety)}
            {e.decision.unsure && <span className="text-amber"> (unsure)</span>}, rather than {name(e.next)}.
          </p>
          <table className="mt-1">
            <tbody>
              <Line name="to begin with" weight={e.start} />
              {e.spoke.map((s) => (
                <Line key={s.words} name={s.words} weight={s.weight} marked={s.evidence.length > 0} />
              ))}
              <Line name="all other words" weight={e.rest} />
              <tr className="border-t border-ink font-semibold">
                <td className="pr-3">together</td>
                <td className="text-right">{signed(e.score)}</td>
              </tr>
            </tbody>
          </table>
          {nearest.length > 0 && (
            <>
              <p className="caps mt-2">Nearest examples</p>
              <ul>
                {nearest.map((n) => (
                  <li key={n.messageId} className="truncate">
                    <Link to="/mail" search={{ id: n.messageId }} className="link">
                      {n.subject || '(no subject)'}
                    </Link>{' '}
                    <span className="text-soft">
                      {name(n.categoryId)}, likeness {percent(n.likeness, 0)}
                    </span>
                  </li>
                ))}
              </ul>
            </>
          )}
        </div>
      )}
    </Loaded>
  );
}

function signed(weight: number): string {
  return `${weight < 0 ? '−' : '+'}${Math.abs(weight).toFixed(2)}`;
}

function Line({ name, weight, marked }: { name: string; weight: number; marked?: boolean }) {
  return (
    <tr>
      <td className="max-w-[220px] truncate pr-3">{marked ? <mark>{name}</mark> : <i>{name}</i>}</td>
      <td className={`text-right ${weight < 0 ? 'text-rust' : 'text-kelp'}`}>{signed(weight)}</td>
    </tr>
  );
}
