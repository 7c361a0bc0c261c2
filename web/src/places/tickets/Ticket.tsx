import { useState } from 'react';
import { Link, useParams } from '@tanstack/react-router';
import { useMutation, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import { useMay } from '@/api/session';
import type { TicketPriority, TicketState, TicketView } from '@/api/types';
import { Button } from '@/parts/Button';
import { SelectField, TextArea, TextField } from '@/parts/Field';
import { notify } from '@/parts/Notices';
import { Loaded } from '@/parts/States';
import { bytes, exact, when } from '@/parts/time';
import { Timeline } from '@/parts/Timeline';
import { TicketTag } from './Tickets';

/** One ticket with its timeline. */
export function Ticket() {
  const { reference } = useParams({ from: '/tickets/$reference' });
  const ticket = useQuery({
    queryKey: ['tickets', reference],
    queryFn: () => body(api.GET('/api/tickets/{reference}', { params: { path: { reference } } })),
  });
  return (
    <div className="h-full overflow-y-auto px-6 pb-10">
      <Loaded query={ticket}>{(view) => <TicketSheet key={reference} view={view} />}</Loaded>
    </div>
  );
}

function TicketSheet({ view }: { view: TicketView }) {
  const { ticket: t } = view;
  const may = useMay('desk');
  const path = { params: { path: { reference: t.reference } } };
  const change = useMutation({
    mutationFn: (c: { state?: TicketState; priority?: TicketPriority; label?: string; summary?: string }) =>
      api.POST('/api/tickets/{reference}/change', {
        ...path,
        body: {
          state: c.state ?? null,
          priority: c.priority ?? null,
          label: c.label ?? null,
          summary: c.summary ?? null,
        },
      }),
  });
  const close = () =>
    change.mutate(
      { state: 'Closed' },
      {
        onSuccess: () =>
          notify({ text: `${t.reference} is closed.`, undo: () => change.mutate({ state: 'Open' }) }),
      },
    );
  return (
    <>
      <header className="flex flex-wrap items-baseline gap-x-3 border-b border-line py-3">
        <span className="font-mono text-[15px]">{t.reference}</span>
        <h1 className="title min-w-0 flex-1 truncate">{t.summary}</h1>
        <TicketTag state={t.state} />
        {may && (
          <span className="flex gap-2">
            {t.state === 'Open' && <Button onClick={() => change.mutate({ state: 'Waiting' })}>Wait</Button>}
            {t.state === 'Closed' ? (
              <Button onClick={() => change.mutate({ state: 'Open' })}>Open again</Button>
            ) : (
              <Button kind="main" onClick={close}>
                Close
              </Button>
            )}
          </span>
        )}
      </header>
      <div className="grid grid-cols-[minmax(0,1fr)_320px] gap-7 pt-4">
        <div className="min-w-0">
          <p className="mb-2 text-soft">
            {t.requesterName} &lt;{t.requesterAddress}&gt; · opened{' '}
            <time title={exact(t.openedAt)}>{when(t.openedAt)}</time>
          </p>
          <p className="mb-5 max-w-[78ch] text-[14.5px] break-words whitespace-pre-wrap">
            {view.description || '(no description)'}
          </p>
          <h2 className="heading border-b border-ink pb-0.5">Timeline</h2>
          <div className="py-2">
            <Timeline entries={view.entries} linkMessages />
          </div>
          {may && <NoteForm reference={t.reference} />}
        </div>
        <aside className="min-w-0">
          {may && (
            <Details
              key={`${t.label}${t.priority}${t.summary}`}
              view={view}
              onChange={(c) => change.mutate(c)}
            />
          )}
          <h2 className="caps mt-4 mb-1">Messages</h2>
          <ul>
            {view.messages.map((m) => (
              <li key={m.id} className="border-b border-faint py-1">
                <Link to="/mail" search={{ id: m.id }} className="block no-underline hover:underline">
                  <span className="block truncate font-semibold">{m.subject || '(no subject)'}</span>
                  <span className="text-soft">
                    {m.senderName || m.senderAddress}, {when(m.arrivedAt)}
                  </span>
                </Link>
              </li>
            ))}
          </ul>
          {view.files.length > 0 && (
            <>
              <h2 className="caps mt-4 mb-1">Files</h2>
              <ul>
                {view.files.map((f) => (
                  <li key={f.id} className="border-b border-faint py-1">
                    <a href={`/api/files/${f.id}/content`} className="link break-all">
                      {f.name}
                    </a>{' '}
                    <span className="text-soft">{bytes(f.size)}</span>
                  </li>
                ))}
              </ul>
            </>
          )}
        </aside>
      </div>
    </>
  );
}

function Details({
  view,
  onChange,
}: {
  view: TicketView;
  onChange: (c: { priority?: TicketPriority; label?: string; summary?: string }) => void;
}) {
  const t = view.ticket;
  return (
    <>
      <TextField
        label="Summary"
        defaultValue={t.summary}
        onBlur={(e) => e.target.value !== t.summary && onChange({ summary: e.target.value })}
      />
      <TextField
        label="Kind"
        defaultValue={t.label}
        onBlur={(e) => e.target.value !== t.label && onChange({ label: e.target.value })}
      />
      <SelectField
        label="Priority"
        value={t.priority}
        onChange={(e) => onChange({ priority: e.target.value as TicketPriority })}
      >
        <option value="Low">low</option>
        <option value="Normal">normal</option>
        <option value="High">high</option>
      </SelectField>
    </>
  );
}

function NoteForm({ reference }: { reference: string }) {
  const [text, setText] = useState('');
  const add = useMutation({
    mutationFn: () =>
      api.POST('/api/tickets/{reference}/note', { params: { path: { reference } }, body: { text } }),
    onSuccess: () => setText(''),
  });
  return (
    <form
      className="mt-2 max-w-[78ch]"
      onSubmit={(e) => {
        e.preventDefault();
        add.mutate();
      }}
    >
      <TextArea
        label="Note for the people here"
        rows={3}
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <Button type="submit" disabled={text.trim() === '' || add.isPending}>
        Add the note
      </Button>
    </form>
  );
}
