import { useQuery } from '@tanstack/react-query';
import { format } from 'date-fns';
import { api, body } from '@/api/client';
import type { SorterOverTime, SorterView } from '@/api/types';
import { percent } from '@/parts/percent';
import { interval, nameOf } from './words';

const weeksShown = 6;

/** How the number in use has done week by week, and whether mail has changed since it was trained. */
export function OverTime({ view }: { view: SorterView }) {
  const time = useQuery({
    queryKey: ['sorters', view.id, 'over-time'],
    queryFn: () =>
      body(
        api.GET('/api/sorters/{id}/over-time', { params: { path: { id: view.id } } }),
      ) as Promise<SorterOverTime>,
  });
  const weeks = time.data?.weeks ?? [];
  if (weeks.length === 0) return null;
  const mondays = [...new Set(weeks.map((w) => w.monday))].sort().slice(-weeksShown);
  const ids = [...new Set(weeks.map((w) => w.categoryId ?? ''))].sort((a, b) =>
    a === '' ? 1 : b === '' ? -1 : nameOf(view.settings, a).localeCompare(nameOf(view.settings, b)),
  );
  const sum = (monday: string, pick: (w: SorterOverTime['weeks'][number]) => number, id?: string) =>
    weeks
      .filter((w) => w.monday === monday && (id === undefined || (w.categoryId ?? '') === id))
      .reduce((total, w) => total + pick(w), 0);
  const drift = time.data?.drift;
  return (
    <section aria-label="Since it is in use" className="mt-5">
      <h3 className="heading !text-[16px]">Since it is in use</h3>
      {drift?.moreMistakes && (
        <p className="my-1 border-l-4 border-rust bg-rust-wash px-3 py-1.5">
          Mail has changed: {percent(drift.corrected.value)} ({interval(drift.corrected)}) of what it decided
          in the last four weeks was put elsewhere by people, more than its evaluation lets expect. Label
          recent messages.
        </p>
      )}
      {drift?.moreDoubt && (
        <p className="my-1 border-l-4 border-amber bg-amber-wash px-3 py-1.5">
          It is unsure about {percent(drift.unsure.value)} ({interval(drift.unsure)}) of the mail of the last
          four weeks, more than its evaluation lets expect. New kinds of mail may have come.
        </p>
      )}
      <div className="overflow-x-auto">
        <table className="table mt-1 !w-auto">
          <thead>
            <tr>
              <th>Corrected of decided</th>
              {mondays.map((m) => (
                <th key={m} className="num">
                  {format(new Date(m), 'd MMM')}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {ids.map((id) => (
              <tr key={id}>
                <td>{nameOf(view.settings, id)}</td>
                {mondays.map((m) => {
                  const decided = sum(m, (w) => w.decided, id);
                  const corrected = sum(m, (w) => w.corrected, id);
                  return (
                    <td key={m} className="num">
                      {decided === 0 ? (
                        '—'
                      ) : (
                        <>
                          <b className={corrected > 0 ? 'text-rust' : 'font-normal'}>{corrected}</b>
                          <span className="text-soft"> of {decided}</span>
                        </>
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
            <tr>
              <td className="text-amber">Unsure</td>
              {mondays.map((m) => (
                <td key={m} className="num text-amber">
                  {sum(m, (w) => w.unsure) || '—'}
                </td>
              ))}
            </tr>
          </tbody>
        </table>
      </div>
    </section>
  );
}
