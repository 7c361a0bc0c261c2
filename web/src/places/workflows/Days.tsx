import { scaleBand, scaleLinear } from '@visx/scale';
import { format } from 'date-fns';
import type { Rehearsal } from '@/api/types';

const width = 480;
const height = 46;

/** The rehearsed messages day by day: taken in, of these changed, and left alone above. */
export function Days({ days }: { days: Rehearsal['summary']['days'] }) {
  if (days.length === 0) return null;
  const x = scaleBand({ domain: days.map((d) => d.day), range: [0, width], padding: 0.12 });
  const y = scaleLinear({
    domain: [0, Math.max(...days.map((d) => d.takenIn + d.leftAlone))],
    range: [0, height],
  });
  const said = `${days.length} days with mail, ${format(new Date(days[0]!.day), 'd MMM')} to ${format(new Date(days.at(-1)!.day), 'd MMM')}`;
  return (
    <div className="mt-2">
      <svg
        viewBox={`0 0 ${width} ${height + 1}`}
        preserveAspectRatio="none"
        className="block h-[48px] w-full"
        role="img"
        aria-label={said}
      >
        {days.map((d) => {
          const at = { x: x(d.day), width: x.bandwidth() };
          return (
            <g key={d.day}>
              <title>{`${d.day}: ${d.takenIn} taken in, ${d.leftAlone} left alone, ${d.changed} changed`}</title>
              <rect
                {...at}
                y={height - y(d.takenIn + d.leftAlone)}
                height={y(d.leftAlone)}
                fill="var(--tide-3)"
              />
              <rect {...at} y={height - y(d.takenIn)} height={y(d.takenIn)} fill="var(--tide-1)" />
              {d.changed > 0 && (
                <rect {...at} y={height - y(d.takenIn + d.leftAlone) - 3} height={3} fill="var(--amber)" />
              )}
            </g>
          );
        })}
        <line x1={0} x2={width} y1={height + 0.5} y2={height + 0.5} stroke="var(--ink)" />
      </svg>
      <p className="flex justify-between text-[11.5px] text-soft">
        <span>{format(new Date(days[0]!.day), 'd MMM')}</span>
        <span>
          <span className="mr-1 inline-block h-2 w-2" style={{ background: 'var(--tide-1)' }} />
          taken in <span className="mr-1 ml-2 inline-block h-2 w-2" style={{ background: 'var(--tide-3)' }} />
          left alone{' '}
          <span
            className="mr-1 ml-2 inline-block h-[3px] w-2 align-middle"
            style={{ background: 'var(--amber)' }}
          />
          changes
        </span>
        <span>{format(new Date(days.at(-1)!.day), 'd MMM')}</span>
      </p>
    </div>
  );
}
