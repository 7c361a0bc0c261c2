import { scaleLinear } from '@visx/scale';
import type { SorterEvaluation } from '@/api/types';

const width = 250;
const height = 150;
const left = 34;
const bottom = 20;

/** How often it was right where it said it was about that sure; on the diagonal it can be taken at its word. */
export function SuretyAgainstTruth({ evaluation }: { evaluation: SorterEvaluation }) {
  const x = scaleLinear({ domain: [0, 1], range: [left, width - 6] });
  const y = scaleLinear({ domain: [0, 1], range: [height - bottom, 8] });
  const said = evaluation.reliability
    .map((b) => `${Math.round(b.surety * 100)} % sure: ${Math.round(b.right.value * 100)} % right`)
    .join(', ');
  return (
    <section aria-label="Surety against truth">
      <h3 className="heading !text-[16px]">Surety against truth</h3>
      <svg viewBox={`0 0 ${width} ${height}`} className="block h-auto w-full" role="img" aria-label={said}>
        {[0, 0.5, 1].map((t) => (
          <g key={t}>
            <line
              x1={left}
              x2={width - 6}
              y1={y(t)}
              y2={y(t)}
              stroke={t === 0 ? 'var(--ink)' : 'var(--faint)'}
            />
            <text x={left - 5} y={y(t) + 4} textAnchor="end" fontSize="10.5" fill="var(--soft)">
              {t * 100}
            </text>
            <text
              x={x(t)}
              y={height - 6}
              textAnchor={t === 0 ? 'start' : t === 1 ? 'end' : 'middle'}
              fontSize="10.5"
              fill="var(--soft)"
            >
              {t === 0.5 ? 'surety' : `${t * 100} %`}
            </text>
          </g>
        ))}
        <line x1={x(0)} y1={y(0)} x2={x(1)} y2={y(1)} stroke="var(--soft)" strokeDasharray="3 3" />
        {evaluation.reliability.map((b) => (
          <g key={b.from}>
            <title>{`${b.right.of} examples at about ${Math.round(b.surety * 100)} %: ${Math.round(b.right.value * 100)} % right`}</title>
            <line
              x1={x(b.surety)}
              x2={x(b.surety)}
              y1={y(b.right.low)}
              y2={y(b.right.high)}
              stroke="var(--tide-2)"
              strokeWidth={1.5}
            />
            <circle cx={x(b.surety)} cy={y(b.right.value)} r={3.5} fill="var(--sea)" />
          </g>
        ))}
      </svg>
      <p className="mt-1 text-[12.5px] text-soft">
        Each dot stands for examples of about the same surety; the stroke through it is the 95 % interval.
      </p>
    </section>
  );
}
