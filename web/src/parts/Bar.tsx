import { useRef, useState } from 'react';
import { Link, useNavigate } from '@tanstack/react-router';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { DropdownMenu } from 'radix-ui';
import { api } from '@/api/client';
import { readSession, sessionKey } from '@/api/session';
import type { Me } from '@/api/types';
import { useToday } from '@/places/today/useToday';
import { applyTheme, readTheme, type Theme } from '@/theme/theme';
import { KeyList } from './KeyList';
import { useKeys } from './useKeys';

const places = [
  { to: '/', label: 'Today' },
  { to: '/queues', label: 'Queues' },
  { to: '/tickets', label: 'Tickets' },
  { to: '/replies', label: 'Replies' },
  { to: '/files', label: 'Files' },
  { to: '/mail', label: 'Mail' },
  { to: '/workflows', label: 'Workflows' },
  { to: '/setup', label: 'Setup' },
] as const;

/** The one bar: the eight places, what waits in them, finding, and the person. */
export function Bar({ me }: { me: Me }) {
  const today = useToday().data;
  const find = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const [keys, setKeys] = useState(false);
  useKeys({ '/': () => find.current?.focus(), '?': () => setKeys(true) });
  const counts: Record<string, number> = {
    Queues: today?.queues.reduce((sum, q) => sum + q.open, 0) ?? 0,
    Replies: today?.needsPerson.find((n) => n.kind === 'checking')?.count ?? 0,
  };
  return (
    <header className="flex h-11 shrink-0 items-stretch gap-1 bg-bar px-4 text-bar-text">
      <Link
        to="/"
        className="mr-4 flex items-center gap-2.5 text-[18px] text-white no-underline"
        style={{ fontFamily: 'var(--font-serif)' }}
      >
        <svg
          width="22"
          height="16"
          viewBox="0 0 22 16"
          fill="none"
          strokeWidth="2.2"
          strokeLinecap="round"
          aria-hidden
        >
          <path d="M1 5c3.3-4.4 6.7-4.4 10 0s6.7 4.4 10 0" stroke="#e8b25a" />
          <path d="M1 11c3.3-4.4 6.7-4.4 10 0s6.7 4.4 10 0" stroke="#7fb6bd" />
        </svg>
        Post Tide
      </Link>
      <nav aria-label="Places" className="flex">
        {places.map((p) => (
          <Link
            key={p.to}
            to={p.to}
            activeOptions={{ exact: p.to === '/' }}
            className="flex items-center gap-2 border-b-[3px] border-transparent px-3 font-medium no-underline hover:text-white aria-[current=page]:border-[#e8b25a] aria-[current=page]:text-white"
          >
            {p.label}{' '}
            {(counts[p.label] ?? 0) > 0 && (
              <span className="rounded-[2px] bg-[#33454f] px-1.5 text-[12px] text-white">
                {counts[p.label]}
              </span>
            )}
          </Link>
        ))}
      </nav>
      <form
        className="ml-auto flex items-center"
        role="search"
        onSubmit={(e) => {
          e.preventDefault();
          const text = find.current?.value.trim() ?? '';
          const reference = /^[a-z]{1,6}-\d{1,12}$/i.test(text);
          if (reference)
            void navigate({ to: '/tickets/$reference', params: { reference: text.toUpperCase() } });
          else void navigate({ to: '/mail', search: { text } });
          find.current?.blur();
        }}
      >
        <label className="flex items-center rounded-[3px] border border-[#4a5c66] px-2 focus-within:border-white">
          <span className="sr-only">Find mail or a ticket</span>
          <input
            ref={find}
            type="search"
            placeholder="Find mail, ticket, sender"
            className="w-[168px] bg-transparent py-0.5 text-white outline-none placeholder:text-bar-text"
          />
          <kbd className="rounded-[2px] border border-[#4a5c66] px-1 font-mono text-[11px]">/</kbd>
        </label>
      </form>
      <PersonMenu me={me} showKeys={() => setKeys(true)} />
      <KeyList open={keys} onClose={() => setKeys(false)} />
    </header>
  );
}

function PersonMenu({ me, showKeys }: { me: Me; showKeys: () => void }) {
  const client = useQueryClient();
  const [theme, setTheme] = useState<Theme>(readTheme);
  const signOut = useMutation({
    mutationFn: () => api.POST('/api/sign-out'),
    onSuccess: async () => {
      client.clear();
      client.setQueryData(sessionKey, await readSession());
    },
  });
  const item = 'block w-full px-3 py-1 text-left outline-none data-[highlighted]:bg-faint';
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger className="ml-2 flex items-center px-2 font-medium hover:text-white">
        {me.name}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          className="z-40 min-w-[210px] border border-ink bg-sheet py-1.5 text-ink"
        >
          <DropdownMenu.Label className="px-3 pb-1 text-soft">{me.permissions.join(', ')}</DropdownMenu.Label>
          <DropdownMenu.RadioGroup
            value={theme}
            onValueChange={(t) => {
              setTheme(t as Theme);
              applyTheme(t as Theme);
            }}
          >
            {(['system', 'light', 'dark'] as const).map((t) => (
              <DropdownMenu.RadioItem key={t} value={t} className={item}>
                <span className="inline-block w-4">{theme === t ? '·' : ''}</span>
                {t === 'system' ? 'As the system' : t === 'light' ? 'Daylight' : 'Night watch'}
              </DropdownMenu.RadioItem>
            ))}
          </DropdownMenu.RadioGroup>
          <DropdownMenu.Separator className="my-1.5 border-t border-faint" />
          <DropdownMenu.Item className={item} onSelect={showKeys}>
            Keys
          </DropdownMenu.Item>
          {me.practiceAddress && (
            <DropdownMenu.Item className={item} asChild>
              <a href={me.practiceAddress} target="_blank" rel="noreferrer">
                Practice stand-ins (demo)
              </a>
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={item} onSelect={() => signOut.mutate()}>
            Sign out
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
