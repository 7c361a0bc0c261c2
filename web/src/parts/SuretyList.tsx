import type { CategorySurety } from '@/api/types';
import { percent } from './percent';

interface Props {
  sureties: CategorySurety[];
  name: (id: string | null) => string;
  /** The key that chooses a category; shown on its button. */
  letter: (index: number, id: string | null) => string | null;
  onChoose: (id: string | null) => void;
  chosen?: string | null | undefined;
  disabled?: boolean;
}

/** The key of a category: 1 to 9 in their order, 0 for none of these. */
export function keyOf(index: number, id: string | null): string | null {
  return id === null ? '0' : index < 9 ? String(index + 1) : null;
}

/** Categories to choose from, each with how sure the sorter is of it. */
export function SuretyList({ sureties, name, letter, onChoose, chosen, disabled }: Props) {
  return (
    <ul>
      {sureties.map((s, i) => (
        <li key={s.categoryId ?? ''}>
          <button
            disabled={disabled}
            aria-pressed={chosen === undefined ? undefined : chosen === s.categoryId}
            aria-keyshortcuts={letter(i, s.categoryId) ?? undefined}
            onClick={() => onChoose(s.categoryId)}
            className="grid w-full grid-cols-[22px_minmax(0,1fr)_minmax(0,0.8fr)_42px] items-center gap-2 px-1 py-1 text-left hover:bg-paper aria-pressed:bg-sea-wash"
          >
            <kbd className="rounded-[2px] border border-ink text-center font-mono text-[11px] leading-[18px] empty:border-transparent">
              {letter(i, s.categoryId)}
            </kbd>
            <span className="truncate">{name(s.categoryId)}</span>
            <span className="block h-[3px] bg-faint">
              <span className="block h-full bg-sea" style={{ width: `${Math.round(s.surety * 100)}%` }} />
            </span>
            <span className="text-right">{percent(s.surety, 0)}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}
