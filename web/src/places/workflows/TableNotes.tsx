import type { Rehearsal } from '@/api/types';
import type { BandProps } from './Bands';

/** What the table comes to: by logic, whatever mail comes, and on the mail that was rehearsed. */
export function TableNotes({
  sheet,
  findings,
  rehearsal,
  onOpen,
}: Pick<BandProps, 'sheet' | 'findings' | 'onOpen'> & { rehearsal: Rehearsal }) {
  const { summary } = rehearsal;
  const number = (id: string) => sheet.lines.findIndex((l) => l.id === id) + 1;
  const loose = findings.filter((f) => f.kind === 'FallsThrough');
  const overlaps = summary.overlaps.filter((o) => number(o.first) > 0 && number(o.second) > 0);
  if (sheet.lines.length === 0) return null;
  return (
    <ul className="mt-1 text-[12.5px] leading-snug text-soft">
      {summary.takenIn > 0 && (
        <li>
          <button
            className="press hover:underline"
            onClick={() => onOpen('WithoutLine', undefined, 'Without a line')}
          >
            {summary.withoutLine === 0
              ? 'Nothing taken in here is left without a line.'
              : `${summary.withoutLine.toLocaleString('en')} taken in fit no line.`}
          </button>
        </li>
      )}
      {loose.map((f) => (
        <li key={f.at}>{f.text}</li>
      ))}
      {overlaps.slice(0, 4).map((o) => (
        <li key={`${o.first} ${o.second}`}>
          <button
            className="press text-left hover:underline"
            onClick={() =>
              onOpen('Overlap', `${o.first} ${o.second}`, `Lines ${number(o.first)} and ${number(o.second)}`)
            }
          >
            Lines {number(o.first)} and {number(o.second)} both fit {o.messages.toLocaleString('en')};{' '}
            {sheet.everyLine ? 'both are carried out.' : `line ${number(o.first)} goes first.`}
          </button>
        </li>
      ))}
      {overlaps.length > 4 && <li>{overlaps.length - 4} more pairs of lines overlap.</li>}
    </ul>
  );
}
