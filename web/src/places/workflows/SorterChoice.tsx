import { Link } from '@tanstack/react-router';
import type { Sheet } from '@/api/types';
import { useSetup } from '@/parts/useSetup';
import { withSorter } from './sheet';

interface Props {
  sheet: Sheet;
  onChange: (sheet: Sheet) => void;
  problem: string | undefined;
  readOnly: boolean;
}

/** Which sorter a sheet asks, and categories the sorter has got since. */
export function SorterChoice({ sheet, onChange, problem, readOnly }: Props) {
  const setup = useSetup().data;
  const sorters = setup?.sorters ?? [];
  if (sorters.length === 0 && sheet.sorterId === null) return null;
  const byHand = setup?.queues.find((q) => q.name === 'Sort by hand')?.id;
  const chosen = sorters.find((s) => s.id === sheet.sorterId);
  const missing = chosen?.categories.filter((c) => !sheet.categories.some((own) => own.id === c.id)) ?? [];
  return (
    <p className="mb-1.5 flex flex-wrap items-center gap-x-3 gap-y-1">
      <label className="flex items-center gap-2">
        <span className="text-soft">sorter</span>
        <select
          className="boxed"
          aria-label="Sorter"
          disabled={readOnly}
          value={sheet.sorterId ?? ''}
          onChange={(e) =>
            onChange(withSorter(sheet, sorters.find((s) => s.id === Number(e.target.value)) ?? null, byHand))
          }
        >
          <option value="">none</option>
          {sorters.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
              {s.inUse ? '' : ' (not in use yet)'}
            </option>
          ))}
          {sheet.sorterId !== null && !chosen && <option value={sheet.sorterId}>gone</option>}
        </select>
      </label>
      {chosen && (
        <Link to="/workflows/sorters/$id" params={{ id: String(chosen.id) }} className="link">
          Open the sorter
        </Link>
      )}
      {missing.length > 0 && !readOnly && (
        <button className="link" onClick={() => onChange(withSorter(sheet, chosen!, byHand))}>
          Add {missing.map((c) => c.name).join(', ')}
        </button>
      )}
      {problem && <span className="text-amber">{problem}</span>}
    </p>
  );
}
