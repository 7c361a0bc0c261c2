import { useMutation } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { api } from '@/api/client';
import type { MailboxHealth } from '@/api/types';
import { notify } from '@/parts/Notices';
import { when } from '@/parts/time';

/** How a mailbox is doing, in one or two sentences. */
export function healthWords(h: MailboxHealth): string {
  if (h.paused) return 'Paused. Nothing is missed: it goes on where it was.';
  if (h.problem)
    return `${h.problem}. ${h.failures} ${h.failures === 1 ? 'try' : 'tries'} failed${h.nextLookAt ? `; the next one is at ${when(h.nextLookAt)}` : ''}.`;
  if (!h.lastLookAt) return 'It is being looked at for the first time.';
  const behind = h.behind > 0 ? ` ${h.behind.toLocaleString('en')} messages wait for the next look.` : '';
  const next = h.pushed
    ? 'The server tells of new mail by itself.'
    : h.nextLookAt
      ? `Next look at ${when(h.nextLookAt)}.`
      : '';
  return `Last look at ${when(h.lastLookAt)}.${behind} ${next}`;
}

export function MailboxHealthLines({ id, health, may }: { id: number; health: MailboxHealth; may: boolean }) {
  const look = useMutation({
    mutationFn: () => api.POST('/api/setup/mailboxes/{id}/look', { params: { path: { id } } }),
    onSuccess: () => notify({ text: 'It is being looked at.' }),
    onError: (e) => notify({ text: e.message }),
  });
  return (
    <div
      className={`mb-4 border-l-4 px-3 py-2 ${health.problem ? 'border-rust bg-rust-wash' : 'border-kelp bg-kelp-wash'}`}
    >
      <p>{healthWords(health)}</p>
      {health.problem && health.detail && (
        <details className="mt-1">
          <summary className="link">What the server said</summary>
          <pre className="mt-1 max-h-[160px] overflow-auto font-mono text-[11.5px] whitespace-pre-wrap">
            {health.detail}
          </pre>
        </details>
      )}
      <p className="mt-1 flex items-baseline gap-4">
        {may && !health.paused && (
          <button type="button" className="link" onClick={() => look.mutate()}>
            Look now
          </button>
        )}
        <Link to="/log" search={{ mailbox: id }} className="link">
          Its looks
        </Link>
        <Link to="/mail" search={{ mailbox: id }} className="link">
          Its mail
        </Link>
      </p>
    </div>
  );
}
