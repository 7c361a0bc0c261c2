import { scaleBand, scaleLinear } from '@visx/scale';
import { LinePath } from '@visx/shape';
import { AxisBottom } from '@visx/axis';
import { format } from 'date-fns';
import type { TodayView } from '@/api/types';

const width = 800;
const height = 190;
const left = 28;
const bottom = 22;

/** The last 24 hours: what came in and was taken in, and the line of queue items that waited for people. */
export function DayTide({ hours }: { hours: TodayView['hours'] }) {
  const x = scaleBand({ domain: hours.map((h) => h.hour), range: [left, width], padding: 0.18 });
  const most = Math.max(4, ...hours.map((h) => h.cameIn));
  const deepest = Math.max(4, ...hours.map((h) => h.waiting));
  const bars = scaleLinear({ domain: [0, most * 1.9], range: [height - bottom, 8] });
  const line = scaleLinear({ domain: [0, deepest * 1.15], range: [height - bottom, 8] });
  const half = x.bandwidth() / 2;
  const mid = (hour: string) => (x(hour) ?? 0) + half;
  const last = hours.at(-1);
  const said = `In the last 24 hours ${hours.reduce((s, h) => s + h.cameIn, 0)} messages came in; ${last?.waiting ?? 0} queue items wait now.`;
  return (
    <svg viewBox={`0 0 ${width} ${height}`} className="block h-auto w-full" role="img" aria-label={said}>
      {[0.5, 1].map((f) => (
        <g key={f}>
          <line x1={left} x2={width} y1={line(deepest * f)} y2={line(deepest * f)} stroke="var(--faint)" />
          <text x={left - 6} y={line(deepest * f) + 4} textAnchor="end" fontSize="11" fill="var(--soft)">
            {Math.round(deepest * f)}
          </text>
        </g>
      ))}
      {hours.map((h) => (
        <g key={h.hour}>
          <title>{`${format(new Date(h.hour), 'HH:mm')}: ${h.cameIn} came in, ${h.takenIn} taken in, ${h.waiting} waited`}</title>
          <rect
            x={x(h.hour)}
            width={half}
            y={bars(h.cameIn)}
            height={height - bottom - bars(h.cameIn)}
            fill="var(--tide-3)"
          />
          <rect
            x={mid(h.hour)}
            width={half}
            y={bars(h.takenIn)}
            height={height - bottom - bars(h.takenIn)}
            fill="var(--tide-2)"
          />
        </g>
      ))}
      <LinePath
        data={hours}
        x={(h) => mid(h.hour)}
        y={(h) => line(h.waiting)}
        stroke="var(--tide-1)"
        strokeWidth={2.5}
      />
      {last && <circle cx={mid(last.hour)} cy={line(last.waiting)} r={4} fill="var(--tide-1)" />}
      <AxisBottom
        top={height - bottom}
        scale={x}
        tickValues={hours.filter((h) => new Date(h.hour).getHours() % 3 === 0).map((h) => h.hour)}
        tickFormat={(h) => format(new Date(h), 'HH')}
        stroke="var(--ink)"
        tickStroke="var(--soft)"
        tickLabelProps={{ fill: 'var(--soft)', fontSize: 11, textAnchor: 'middle', fontFamily: 'inherit' }}
      />
    </svg>
  );
}
