import type { Verdict } from '@/api/types';
import { when } from './time';

/** The facts read out, by name; what was not found says so. */
export function Facts({ facts }: { facts: Verdict['facts'] }) {
  return (
    <dl className="grid grid-cols-[98px_minmax(0,1fr)]">
      {facts.map((f) => (
        <div key={f.name} className="contents">
          <dt className="text-soft">{f.name.replaceAll('_', ' ')}</dt>
          <dd className="break-words">
            {f.value === null ? (
              <span className="text-amber">not found</span>
            ) : f.name === 'date' ? (
              when(f.value)
            ) : (
              f.value
            )}
          </dd>
        </div>
      ))}
    </dl>
  );
}
