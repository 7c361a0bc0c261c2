import { Link } from '@tanstack/react-router';
import type { MailLine } from '@/api/types';
import { when } from './time';

/** Messages named in passing, each opening in its place; of many the first are shown. */
export function MailLines({ messages, total }: { messages: MailLine[]; total: number }) {
  return (
    <ul className="text-[13px]">
      {messages.map((m) => (
        <li key={m.id} className="flex gap-2 border-b border-faint py-0.5">
          <Link
            to="/mail"
            search={{ id: m.id }}
            className="min-w-0 flex-1 truncate font-semibold no-underline hover:underline"
          >
            {m.subject || '(no subject)'}
          </Link>
          <span className="max-w-[40%] truncate text-soft">{m.senderAddress}</span>
          <span className="shrink-0 text-soft">{when(m.arrivedAt)}</span>
        </li>
      ))}
      {total > messages.length && (
        <li className="py-0.5 text-soft">and {(total - messages.length).toLocaleString('en')} more.</li>
      )}
    </ul>
  );
}
