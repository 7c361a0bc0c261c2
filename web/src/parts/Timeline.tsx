import { Link } from '@tanstack/react-router';
import type { EntryView } from '@/api/types';
import { exact, when } from './time';

/** Entries of an item or a ticket, oldest first. */
export function Timeline({ entries, linkMessages }: { entries: EntryView[]; linkMessages?: boolean }) {
  return (
    <ol className="text-[13px]">
      {entries.map((e) => (
        <li key={e.id} className="flex gap-2 py-0.5">
          <time className="w-[86px] shrink-0 text-soft" title={exact(e.at)}>
            {when(e.at)}
          </time>
          <span className="min-w-0 break-words whitespace-pre-wrap">
            {e.kind === 'Note' ? <span className="border-l-2 border-amber pl-2">{e.text}</span> : e.text}
            {e.person && <span className="text-soft">, {e.person}</span>}
            {linkMessages && e.messageId && ['Message', 'Reopened'].includes(e.kind) && (
              <>
                {' '}
                <Link className="link" to="/mail" search={{ id: e.messageId }}>
                  open
                </Link>
              </>
            )}
          </span>
        </li>
      ))}
    </ol>
  );
}
