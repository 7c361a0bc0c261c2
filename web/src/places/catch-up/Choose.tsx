import { useState } from 'react';
import { useNavigate, useSearch } from '@tanstack/react-router';
import { useMutation, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { MessageShow } from '@/api/types';
import { Button } from '@/parts/Button';
import { dayEnd, dayStart } from '@/parts/days';
import { SelectField, TextField } from '@/parts/Field';
import { useSetup } from '@/parts/useSetup';
import { useWorkflows } from '@/parts/useWorkflows';

const shows: [MessageShow, string][] = [
  ['Old', 'old mail nothing was done with'],
  ['LeftAlone', 'mail that was left alone'],
  ['TakenIn', 'mail that was taken in'],
  ['All', 'all mail'],
];

/** Which workflow, and on which messages. Nothing happens before it was looked over. */
export function Choose() {
  const search = useSearch({ from: '/catch-up' });
  const navigate = useNavigate({ from: '/catch-up' });
  const workflows = (useWorkflows().data ?? []).filter((w) => w.liveEdition !== null);
  const mailboxes = useSetup().data?.mailboxes ?? [];
  const ids = search.ids;
  const [workflow, setWorkflow] = useState(search.workflow ? String(search.workflow) : '');
  const [text, setText] = useState(search.text ?? '');
  const [mailbox, setMailbox] = useState(search.mailbox ? String(search.mailbox) : '');
  const [show, setShow] = useState<MessageShow>(search.show ?? 'Old');
  const [from, setFrom] = useState(search.from ?? '');
  const [until, setUntil] = useState(search.until ?? '');
  const [most, setMost] = useState(500);
  const query = {
    text,
    mailboxId: mailbox ? Number(mailbox) : undefined,
    show,
    from: dayStart(from || undefined),
    until: dayEnd(until || undefined),
  };
  const found = useQuery({
    queryKey: ['mail', 'count', query],
    enabled: !ids,
    queryFn: () => body(api.GET('/api/messages', { params: { query } })),
  });
  const chosenWorkflow = workflow || String(workflows[0]?.id ?? '');
  const begin = useMutation({
    mutationFn: () =>
      body(
        api.POST('/api/catch-ups', {
          body: {
            workflowId: Number(chosenWorkflow),
            text,
            mailboxId: query.mailboxId ?? null,
            show,
            from: query.from ?? null,
            until: query.until ?? null,
            ids: ids ?? null,
            most: ids ? ids.length : most,
          },
        }),
      ),
    onSuccess: (run) => void navigate({ search: { run: run } }),
  });
  const total = ids ? ids.length : (found.data?.total ?? 0);
  const count = ids ? ids.length : Math.min(total, most);
  return (
    <form
      className="max-w-[640px]"
      onSubmit={(e) => {
        e.preventDefault();
        begin.mutate();
      }}
    >
      <header className="py-3">
        <h1 className="title">Catch-up</h1>
        <p className="text-soft">
          Carries a live workflow out on messages that are here already. You see first exactly what would be
          done; what was done before is not done again, and replies wait for checking.
        </p>
      </header>
      <SelectField label="Workflow" value={chosenWorkflow} onChange={(e) => setWorkflow(e.target.value)}>
        {workflows.map((w) => (
          <option key={w.id} value={w.id}>
            {w.name}
          </option>
        ))}
      </SelectField>
      {ids ? (
        <p className="mb-3">
          On {ids.length} {ids.length === 1 ? 'message' : 'messages'} selected by hand.{' '}
          <button
            type="button"
            className="link"
            onClick={() => void navigate({ search: { ...search, ids: undefined } })}
          >
            Search instead
          </button>
        </p>
      ) : (
        <>
          <div className="grid grid-cols-2 gap-x-4">
            <SelectField label="On" value={show} onChange={(e) => setShow(e.target.value as MessageShow)}>
              {shows.map(([value, label]) => (
                <option key={value} value={value}>
                  {label}
                </option>
              ))}
            </SelectField>
            <SelectField label="Of the mailbox" value={mailbox} onChange={(e) => setMailbox(e.target.value)}>
              <option value="">every mailbox</option>
              {mailboxes.map((m) => (
                <option key={m.id} value={m.id}>
                  {m.name}
                </option>
              ))}
            </SelectField>
          </div>
          <TextField
            label="With the words"
            placeholder="Words, a sender, a file name; none for all"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <div className="grid grid-cols-3 gap-x-4">
            <TextField
              label="Arrived from"
              type="date"
              value={from}
              onChange={(e) => setFrom(e.target.value)}
            />
            <TextField label="Until" type="date" value={until} onChange={(e) => setUntil(e.target.value)} />
            <TextField
              label="At most, the newest"
              type="number"
              min={1}
              max={10000}
              value={most}
              onChange={(e) => setMost(Number(e.target.value) || 1)}
            />
          </div>
        </>
      )}
      {begin.error && (
        <p role="alert" className="mb-3 font-semibold text-rust">
          {begin.error.message}
        </p>
      )}
      <p className="flex items-baseline gap-4">
        <Button kind="main" type="submit" disabled={begin.isPending || count === 0 || !chosenWorkflow}>
          Look it over
        </Button>
        <span role="status" className="text-soft">
          {begin.isPending
            ? 'Working out what would be done…'
            : `${count.toLocaleString('en')} ${count === 1 ? 'message' : 'messages'}${total > count ? ` of ${total.toLocaleString('en')} found` : ''}`}
        </span>
      </p>
    </form>
  );
}
