import { useFieldArray, type UseFormReturn } from 'react-hook-form';
import { api } from '@/api/client';
import type { ApprovalSetup, ConnectionSetup, MailboxSetup } from '@/api/types';
import { TextArea, TextField } from '@/parts/Field';
import { ConnectionFields } from './ConnectionFields';
import { Foot, problem, problemsUnder, splitWords, useRemove, useSetupForm, type Props } from './forms';
import { MailboxHealthLines } from './MailboxHealthLines';

export interface MailboxValues {
  name: string;
  addresses: { address: string; name: string }[];
  connected: boolean;
  connection: ConnectionSetup;
  approvedOnly: boolean;
  approval: {
    approved: string;
    trustedServers: string;
    trustedHosts: string;
    unproved: ApprovalSetup['unproved'];
  };
}

const fresh: ConnectionSetup = {
  host: '',
  port: 993,
  tls: 'Implicit',
  user: '',
  password: '',
  folder: 'INBOX',
  backDays: 90,
  oldMail: 'Keep',
  markRead: false,
  paceMinutes: 15,
  hours: null,
  cap: null,
  paused: false,
};

function valuesOf(record: MailboxSetup | undefined): MailboxValues {
  const a = record?.approval;
  return {
    name: record?.name ?? '',
    addresses: record?.addresses.map((x) => ({ ...x })) ?? [{ address: '', name: '' }],
    connected: !!record?.connection,
    connection: { ...(record?.connection ?? fresh), password: '' },
    approvedOnly: !!a,
    approval: {
      approved: a?.approved.join('\n') ?? '',
      trustedServers: a?.trustedServers.join('\n') ?? '',
      trustedHosts: a?.trustedHosts.join('\n') ?? '',
      unproved: a?.unproved ?? 'Hold',
    },
  };
}

/** What is sent: empty passwords keep the one there is, switched-off parts are left out. */
export function requestOf(id: number, v: MailboxValues): MailboxSetup {
  return {
    id,
    name: v.name,
    addresses: v.addresses.filter((a) => a.address.trim() !== ''),
    connection: v.connected
      ? {
          ...v.connection,
          password: v.connection.password || null,
          port: Number(v.connection.port),
          backDays: Number(v.connection.backDays),
          paceMinutes: Number(v.connection.paceMinutes),
          cap: v.connection.cap ? Number(v.connection.cap) : null,
        }
      : null,
    approval: v.approvedOnly
      ? {
          approved: splitWords(v.approval.approved),
          trustedServers: splitWords(v.approval.trustedServers),
          trustedHosts: splitWords(v.approval.trustedHosts),
          unproved: v.approval.unproved,
        }
      : null,
    health: null,
  };
}

/** A mailbox: its addresses, the mail server it is read from, and who may write to it. */
export function MailboxForm({ record, may, onDone }: Props<MailboxSetup>) {
  const id = record?.id ?? 0;
  const { form, submit } = useSetupForm<MailboxValues>(
    valuesOf(record),
    (v) => api.PUT('/api/setup/mailboxes/{id}', { params: { path: { id } }, body: requestOf(id, v) }),
    onDone,
    'The mailbox',
  );
  const remove = useRemove(
    () => api.DELETE('/api/setup/mailboxes/{id}', { params: { path: { id } } }),
    onDone,
    'The mailbox',
  );
  const connected = form.watch('connected');
  return (
    <form onSubmit={submit} className="pb-6">
      {record?.health && <MailboxHealthLines id={id} health={record.health} may={may} />}
      <TextField label="Name" problem={problem(form as never, 'name')} {...form.register('name')} />
      <Addresses form={form} />
      <label className="mb-3 flex items-baseline gap-2 border-t border-line pt-3">
        <input type="checkbox" {...form.register('connected')} />
        <span className="font-semibold">Read it from a mail server</span>
      </label>
      {connected && <ConnectionFields form={form} mailboxId={id} kept={!!record?.connection} may={may} />}
      <Approval form={form} />
      <Foot form={form} may={may} onRemove={id ? () => remove.mutate() : undefined} />
    </form>
  );
}

function Addresses({ form }: { form: UseFormReturn<MailboxValues> }) {
  const rows = useFieldArray({ control: form.control, name: 'addresses' });
  const says = problem(form as never, 'addresses');
  return (
    <fieldset className="mb-3">
      <legend className="caps mb-1">Addresses, and what each is for</legend>
      {rows.fields.map((row, i) => (
        <div key={row.id} className="mb-1 flex gap-2">
          <input
            aria-label={`Address ${i + 1}`}
            aria-invalid={says ? true : undefined}
            className="boxed min-w-0 flex-[3]"
            {...form.register(`addresses.${i}.address`)}
          />
          <input
            aria-label={`What address ${i + 1} is for`}
            className="boxed min-w-0 flex-[2]"
            {...form.register(`addresses.${i}.name`)}
          />
          <button
            type="button"
            className="size-7 shrink-0 text-soft hover:text-rust"
            aria-label={`Take out address ${i + 1}`}
            onClick={() => rows.remove(i)}
          >
            ×
          </button>
        </div>
      ))}
      <button type="button" className="link" onClick={() => rows.append({ address: '', name: '' })}>
        Add an address
      </button>
      {says ? (
        <p className="mt-1 font-semibold text-rust">{says}</p>
      ) : (
        <p className="mt-1 text-soft">
          Sub-addresses such as name+tag@ are taken with their address (RFC 5233).
        </p>
      )}
    </fieldset>
  );
}

function Approval({ form }: { form: UseFormReturn<MailboxValues> }) {
  const only = form.watch('approvedOnly');
  const [servers, hosts] = form.watch(['approval.trustedServers', 'approval.trustedHosts']);
  const unproved = form.watch('approval.unproved');
  const says = problemsUnder(form as never, 'approval');
  return (
    <fieldset className="mb-4 border-t border-line pt-3">
      <label className="mb-2 flex items-baseline gap-2">
        <input type="checkbox" {...form.register('approvedOnly')} />
        <span className="font-semibold">Only approved senders; hold everybody else’s mail</span>
      </label>
      {only && (
        <>
          <TextArea
            label="Approved addresses and domains, one to a line"
            rows={3}
            hint="A domain stands for its subdomains too."
            {...form.register('approval.approved')}
          />
          <p className="mb-2 max-w-[58ch] text-soft">
            Anybody can write any sender’s name on a message. An approved sender counts when a host you trust
            vouches for it.
          </p>
          <TextArea
            label="Hosts whose Authentication-Results count"
            rows={2}
            hint="The name at the beginning of that header field, as your own mail server writes it (RFC 8601)."
            {...form.register('approval.trustedServers')}
          />
          <TextArea
            label="Hosts that may hand mail over for them"
            rows={2}
            hint="IP addresses or networks such as 10.0.0.0/8, for a relay of your own."
            {...form.register('approval.trustedHosts')}
          />
          <label className="mb-1 flex items-baseline gap-2">
            <input
              type="checkbox"
              checked={unproved === 'LetThrough'}
              onChange={(e) => form.setValue('approval.unproved', e.target.checked ? 'LetThrough' : 'Hold')}
            />
            Let approved senders through although nothing vouches for them; their messages say so
          </label>
          {splitWords(`${servers}\n${hosts}`).length === 0 && unproved === 'Hold' && (
            <p className="font-semibold text-amber">
              No host is trusted yet, so nobody’s mail can be told from a forgery and all of it is held.
            </p>
          )}
          {says && <p className="font-semibold text-rust">{says}</p>}
        </>
      )}
    </fieldset>
  );
}
