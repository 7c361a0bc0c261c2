import { scaleLinear } from '@visx/scale';
import { LinePath } from '@visx/shape';
import type { SorterView } from '@/api/types';
import { percent } from '@/parts/percent';

const width = 320;
const height = 104;
const left = 34;
const bottom = 18;

/** What labelling has brought so far, and what more of it would bring. */
export function LearningCurve({ view }: { view: SorterView }) {
  const e = view.evaluation;
  const f = view.forecast;
  const measured =
    e && e.examples > 0 ? [...e.learning, { examples: e.examples, accuracy: e.accuracy.value }] : [];
  const ahead = f && e ? [measured.at(-1)!, { examples: e.examples + f.more, accuracy: f.accuracy }] : [];
  const all = [...measured, ...ahead];
  const x = scaleLinear({
    domain: [0, Math.max(1, ...all.map((p) => p.examples))],
    range: [left, width - 6],
  });
  const y = scaleLinear({
    domain: [Math.min(0.95, ...all.map((p) => p.accuracy)), 1],
    range: [height - bottom, 8],
    nice: true,
  });
  return (
    <section aria-label="What labelling has brought" className="mt-5">
      <h3 className="heading !text-[16px]">What labelling has brought</h3>
      {measured.length > 1 && (
        <svg
          viewBox={`0 0 ${width} ${height}`}
          className="block h-auto w-full"
          role="img"
          aria-label={measured.map((p) => `${p.examples} examples: ${percent(p.accuracy)} right`).join(', ')}
        >
          {y.ticks(3).map((t) => (
            <g key={t}>
              <line x1={left} x2={width - 6} y1={y(t)} y2={y(t)} stroke="var(--faint)" />
              <text x={left - 5} y={y(t) + 4} textAnchor="end" fontSize="10.5" fill="var(--soft)">
                {Math.round(t * 100)}
              </text>
            </g>
          ))}
          <line x1={left} x2={width - 6} y1={height - bottom} y2={height - bottom} stroke="var(--ink)" />
          {measured.map((p) => (
            <text
              key={p.examples}
              x={x(p.examples)}
              y={height - 5}
              textAnchor="middle"
              fontSize="10.5"
              fill="var(--soft)"
            >
              {p.examples}
            </text>
          ))}
          <LinePath
            data={measured}
            x={(p) => x(p.examples)}
            y={(p) => y(p.accuracy)}
            stroke="var(--sea)"
            strokeWidth={2}
          />
          <LinePath
            data={ahead}
            x={(p) => x(p.examples)}
            y={(p) => y(p.accuracy)}
            stroke="var(--soft)"
            strokeDasharray="3 3"
          />
          {measured.map((p) => (
            <circle key={p.examples} cx={x(p.examples)} cy={y(p.accuracy)} r={3} fill="var(--sea)" />
          ))}
        </svg>
      )}
      <p className="mt-1 text-[12.5px] text-soft">
        {view.labelsToday > 0 && `${view.labelsToday} ${view.labelsToday === 1 ? 'label' : 'labels'} today. `}
        {f && e
          ? f.enough
            ? `${f.more} more would bring it from ${percent(e.accuracy.value, 1)} right to ${percent(f.accuracy, 1)}: you can stop here, unless one category needs more.`
            : `About ${f.more} more would bring it from ${percent(e.accuracy.value, 1)} right to ${percent(f.accuracy, 1)}.`
          : 'After about ten labels it shows how good it has become and what more would bring.'}
      </p>
    </section>
  );
}
