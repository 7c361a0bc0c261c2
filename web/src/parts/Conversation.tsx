import { Link } from '@tanstack/react-router';
import type { MessageRow } from '@/api/types';
import { when } from './time';

/** The other messages of a conversation, oldest first. */
export function Conversation({ messages }: { messages: MessageRow[] }) {
  if (messages.length === 0) return null;
  return (
    <section className="mt-5">
      <h2 className="caps mb-1">The same conversation</h2>
      <ul>
        {messages.map((m) => (
          <li key={m.id} className="border-b border-faint py-1">
            <Link to="/mail" search={{ id: m.id }} className="no-underline hover:underline">
              {m.subject || '(no subject)'}{' '}
              <span className="text-soft">
                {m.senderName || m.senderAddress}, {when(m.arrivedAt)}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
