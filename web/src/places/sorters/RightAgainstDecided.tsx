import { scaleLinear } from '@visx/scale';
import { LinePath } from '@visx/shape';
import { useMay } from '@/api/session';
import type { SorterEvaluation, SorterView } from '@/api/types';
import { useSaveSettings } from './useSorter';
import { percent } from '@/parts/percent';

const width = 250;
const height = 150;
const left = 34;
const bottom = 20;

/** The curve from which the floor is chosen: the more is decided, the less of it is right. */
export function RightAgainstDecided({
  view,
  evaluation,
}: {
  view: SorterView;
  evaluation: SorterEvaluation;
}) {
  const may = useMay('builder');
  const save = useSaveSettings(view);
  const curve = evaluation.curve;
  const before = view.inUse?.curve ?? [];
  const lowest = Math.min(0.95, ...curve.map((p) => p.right.value), ...before.map((p) => p.right.value));
  const x = scaleLinear({ domain: [0, 1], range: [left, width - 6] });
  const y = scaleLinear({ domain: [Math.floor(lowest * 20) / 20, 1], range: [height - bottom, 8] });
  const wanted = view.settings.rightAtLeast;
  const decided = evaluation.decided.value;
  const reached = evaluation.decidedRight;
  return (
    <section aria-label="Right against decided">
      <h3 className="heading !text-[16px]">Right against decided</h3>
      <svg
        viewBox={`0 0 ${width} ${height}`}
        className="block h-auto w-full"
        role="img"
        aria-label={`It decides ${percent(decided)} by itself, ${reached.of > 0 ? percent(reached.value) : 'none'} of that right.`}
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
        {[0, 0.5, 1].map((t) => (
          <text
            key={t}
            x={x(t)}
            y={height - 6}
            textAnchor={t === 0 ? 'start' : t === 1 ? 'end' : 'middle'}
            fontSize="10.5"
            fill="var(--soft)"
          >
            {t === 0.5 ? 'decided' : `${t * 100} %`}
          </text>
        ))}
        <LinePath
          data={before}
          x={(p) => x(p.decided)}
          y={(p) => y(p.right.value)}
          stroke="var(--soft)"
          strokeDasharray="3 3"
        />
        <LinePath
          data={curve}
          x={(p) => x(p.decided)}
          y={(p) => y(p.right.value)}
          stroke="var(--sea)"
          strokeWidth={2}
        />
        {reached.of > 0 && (
          <>
            <line x1={x(decided)} x2={x(decided)} y1={8} y2={height - bottom} stroke="var(--ink)" />
            <circle cx={x(decided)} cy={y(reached.value)} r={4.5} fill="var(--amber)" />
          </>
        )}
      </svg>
      <ul aria-label="How much has to be right" className="mt-1 text-[12.5px]">
        {evaluation.choices.map(({ rightAtLeast: t, decided: share }) => {
          const chosen = Math.abs(t - wanted) < 1e-9;
          return (
            <li key={t}>
              <button
                disabled={!may || save.isPending}
                aria-pressed={chosen}
                onClick={() => save.mutate({ settings: { ...view.settings, rightAtLeast: t } })}
                className="press w-full px-1 text-left hover:bg-sheet aria-pressed:bg-sea-wash aria-pressed:font-semibold"
              >
                at {Math.round(t * 100)} % right it{' '}
                {share === 0 ? 'decides nothing yet' : `decides ${percent(share)} by itself`}
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
