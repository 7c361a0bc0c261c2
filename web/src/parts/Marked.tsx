import { useMemo } from 'react';
import type { Evidence } from '@/api/types';
import { cut, type Mark } from './evidence';

export interface Lit {
  /** The reason under the pointer or the focus, null for none. */
  lit: number | null;
  setLit: (reason: number | null) => void;
}

interface Props extends Lit {
  text: string;
  marks: Mark[];
  place: Evidence['place'];
  index?: number;
  start?: number;
  end?: number;
}

/** Text with the words marked that decisions rest on. */
export function Marked({ text, marks, place, index = 0, start = 0, end = text.length, lit, setLit }: Props) {
  const pieces = useMemo(
    () =>
      cut(
        text,
        start,
        end,
        marks.filter((m) => m.evidence.place === place && m.evidence.index === index),
      ),
    [text, start, end, marks, place, index],
  );
  return (
    <>
      {pieces.map((p) =>
        p.reasons.length === 0 ? (
          <span key={p.start}>{p.text}</span>
        ) : (
          <mark
            key={p.start}
            data-lit={lit !== null && p.reasons.includes(lit)}
            onMouseEnter={() => setLit(p.reasons[0]!)}
            onMouseLeave={() => setLit(null)}
          >
            {p.text}
          </mark>
        ),
      )}
    </>
  );
}
