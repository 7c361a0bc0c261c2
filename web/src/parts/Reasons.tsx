import type { Verdict } from '@/api/types';
import type { Lit } from './Marked';
import { Tag } from './Tag';

/** A verdict's reasons. Pointing at one lights the words it rests on, and the other way round. */
export function Reasons({ verdict, lit, setLit }: Lit & { verdict: Verdict }) {
  return (
    <ol className="space-y-1">
      {verdict.reasons.map((r, i) => (
        <li
          key={i}
          tabIndex={r.evidence.length > 0 ? 0 : undefined}
          onMouseEnter={() => setLit(i)}
          onMouseLeave={() => setLit(null)}
          onFocus={() => setLit(i)}
          onBlur={() => setLit(null)}
          className={lit === i ? 'bg-faint' : undefined}
        >
          {r.text}
          {r.evidence.length > 0 && (
            <span className="ml-1.5">
              {[...new Set(r.evidence.map((e) => e.text))]
                .filter((text) => !r.text.endsWith(text))
                .slice(0, 6)
                .map((text) => (
                  <mark key={text} className="mr-1 break-words">
                    {text}
                  </mark>
                ))}
            </span>
          )}
        </li>
      ))}
    </ol>
  );
}

export function OutcomeTag({ verdict }: { verdict: Pick<Verdict, 'outcome' | 'nearMiss'> }) {
  if (verdict.outcome === 'TakenIn') return <Tag tone="sea">taken in</Tag>;
  if (verdict.nearMiss) return <Tag tone="amber">near miss</Tag>;
  return <Tag tone="soft">{verdict.outcome === 'Skipped' ? 'skipped' : 'left alone'}</Tag>;
}
