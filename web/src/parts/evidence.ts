import type { Evidence, PreparedMessage, Verdict } from '@/api/types';

export interface Address {
  name: string;
  address: string;
}

/** Name and address as decisions see them; evidence about a sender or recipient points into this. */
export function shown(a: Address): string {
  return a.name === '' ? a.address : `${a.name} <${a.address}>`;
}

/** The recipients in the order decisions count them: To, Cc, then the addresses it was originally written to. */
export function recipients(message: PreparedMessage): Address[] {
  const seen = new Set<string>();
  return [
    ...message.to,
    ...message.cc,
    ...message.originallyTo.map((address) => ({ name: '', address })),
  ].filter(
    (a) => a.address !== '' && !seen.has(a.address.toLowerCase()) && seen.add(a.address.toLowerCase()),
  );
}

/** A piece of text, and the reasons that rest on it. */
export interface Piece {
  text: string;
  start: number;
  reasons: number[];
}

/** Evidence with the number of the reason it belongs to. */
export interface Mark {
  evidence: Evidence;
  reason: number;
}

export function marksOf(verdict: Pick<Verdict, 'reasons'> | null): Mark[] {
  return (verdict?.reasons ?? []).flatMap((r, reason) =>
    r.evidence.map((evidence) => ({ evidence, reason })),
  );
}

/** Cuts a stretch of text at the borders of its marks, so that each piece knows every reason resting on it. */
export function cut(text: string, start: number, end: number, marks: Mark[]): Piece[] {
  const spans = marks
    .map((m) => ({
      from: Math.max(start, m.evidence.start),
      to: Math.min(end, m.evidence.start + m.evidence.length),
      reason: m.reason,
    }))
    .filter((s) => s.from < s.to);
  const borders = [...new Set([start, end, ...spans.flatMap((s) => [s.from, s.to])])].sort((a, b) => a - b);
  return borders.slice(0, -1).map((from, i) => {
    const to = borders[i + 1]!;
    return {
      text: text.slice(from, to),
      start: from,
      reasons: [...new Set(spans.filter((s) => s.from < to && s.to > from).map((s) => s.reason))],
    };
  });
}
