import { useMutation, useQuery } from '@tanstack/react-query';
import type { UseFormReturn } from 'react-hook-form';
import { api, body } from '@/api/client';
import type { ConnectionTestResult } from '@/api/types';
import { Button } from '@/parts/Button';
import { SelectField, TextField } from '@/parts/Field';
import { Tag } from '@/parts/Tag';
import type { MailboxValues } from './MailboxForm';
import { problemsUnder } from './forms';

interface Props {
  form: UseFormReturn<MailboxValues>;
  mailboxId: number;
  kept: boolean;
  may: boolean;
}

const usualPorts = { None: 143, StartTls: 143, Implicit: 993 } as const;

/** The server, how far back, the pace; with the test of the connection and the pace held against the history. */
export function ConnectionFields({ form, mailboxId, kept, may }: Props) {
  const c = form.watch('connection');
  const says = problemsUnder(form as never, 'connection');
  const test = useMutation({
    mutationFn: () =>
      body(
        api.POST('/api/setup/connection-test', {
          body: {
            mailboxId: mailboxId || null,
            host: c.host,
            port: Number(c.port),
            tls: c.tls,
            user: c.user,
            password: c.password || null,
            folder: c.folder,
          },
        }),
      ),
  });
  return (
    <div className="mb-3">
      <div className="grid grid-cols-[minmax(0,1fr)_92px] gap-x-3">
        <TextField label="Server" placeholder="mail.example.org" {...form.register('connection.host')} />
        <TextField label="Port" type="number" {...form.register('connection.port')} />
      </div>
      <SelectField
        label="Private connection"
        value={c.tls}
        onChange={(e) => {
          const tls = e.target.value as typeof c.tls;
          form.setValue('connection.tls', tls);
          if (Object.values(usualPorts).includes(Number(c.port) as 143 | 993))
            form.setValue('connection.port', usualPorts[tls]);
        }}
        hint={
          c.tls === 'None'
            ? 'The password crosses the network readable. Use this for a server on this machine only.'
            : undefined
        }
      >
        <option value="Implicit">TLS from the first byte (port 993)</option>
        <option value="StartTls">STARTTLS (port 143)</option>
        <option value="None">none</option>
      </SelectField>
      <div className="grid grid-cols-2 gap-x-3">
        <TextField label="User" autoComplete="off" {...form.register('connection.user')} />
        <TextField
          label="Password"
          type="password"
          autoComplete="new-password"
          placeholder={kept ? 'kept as it is' : ''}
          {...form.register('connection.password')}
        />
      </div>
      <TextField
        label="Folder"
        list="folders"
        hint={test.data?.ok ? `${test.data.messages.toLocaleString('en')} messages lie in it.` : undefined}
        {...form.register('connection.folder')}
      />
      <datalist id="folders">
        {test.data?.folders.map((f) => (
          <option key={f} value={f} />
        ))}
      </datalist>
      <p className="mb-3 flex items-baseline gap-3">
        <Button
          type="button"
          disabled={!may || test.isPending || !c.host || !c.user}
          onClick={() => test.mutate()}
        >
          Test the connection
        </Button>
        {test.isPending && <span role="status">Asking the server…</span>}
      </p>
      {test.error && (
        <p role="alert" className="mb-3 font-semibold text-rust">
          {test.error.message}
        </p>
      )}
      {test.data && !test.isPending && <TestResult result={test.data} />}
      {!kept && <History form={form} />}
      <label className="mb-3 flex items-baseline gap-2">
        <input type="checkbox" {...form.register('connection.markRead')} />
        Mark messages as read on the server once they are taken
      </label>
      <Rhythm form={form} mailboxId={mailboxId} pushes={test.data?.ok ? test.data.pushes : null} />
      <label className="mb-2 flex items-baseline gap-2">
        <input type="checkbox" {...form.register('connection.paused')} />
        Paused: it is not looked at for now; nothing is missed meanwhile
      </label>
      {says && <p className="font-semibold text-rust">{says}</p>}
    </div>
  );
}

const stepNames = { Name: 'Name', Port: 'Port', Tls: 'Private', SignIn: 'Sign-in', Folder: 'Folder' };

export function TestResult({ result }: { result: ConnectionTestResult }) {
  return (
    <div
      role="status"
      className={`mb-4 border-l-4 px-3 py-2 ${result.ok ? 'border-kelp bg-kelp-wash' : 'border-rust bg-rust-wash'}`}
    >
      <table>
        <tbody>
          {result.steps.map((s) => (
            <tr key={s.step} className="align-baseline">
              <td className="pr-3 font-semibold whitespace-nowrap">{stepNames[s.step]}</td>
              <td className="pr-3">
                {s.ok === null ? (
                  <span className="text-soft">—</span>
                ) : (
                  <Tag tone={s.ok ? 'kelp' : 'rust'}>{s.ok ? 'good' : 'failed'}</Tag>
                )}
              </td>
              <td className={s.ok === null ? 'text-soft' : ''}>{s.says}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {result.ok && (
        <p className="mt-1">
          {result.pushes
            ? 'The server tells of new mail by itself (IDLE), so it is here within seconds.'
            : 'The server does not tell of new mail by itself, so it is looked at by the pace below.'}
        </p>
      )}
      {!result.ok && result.serverSaid && (
        <>
          <p className="mt-2">The server said, or was told last:</p>
          <pre className="mt-0.5 max-h-[150px] overflow-auto font-mono text-[11.5px] whitespace-pre-wrap">
            {result.serverSaid}
          </pre>
        </>
      )}
    </div>
  );
}

function History({ form }: { form: UseFormReturn<MailboxValues> }) {
  return (
    <div className="grid grid-cols-[130px_minmax(0,1fr)] gap-x-3">
      <TextField label="Days back" type="number" min={0} {...form.register('connection.backDays')} />
      <SelectField
        label="Mail that is there already"
        {...form.register('connection.oldMail')}
        hint="Old mail can be searched and rehearsed on at once. A catch-up carries workflows out on it when you say so."
      >
        <option value="Keep">is kept for rehearsal and catch-up</option>
        <option value="CarryOut">is treated like mail just arrived</option>
      </SelectField>
    </div>
  );
}

const days = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

function Rhythm({
  form,
  mailboxId,
  pushes,
}: {
  form: UseFormReturn<MailboxValues>;
  mailboxId: number;
  pushes: boolean | null;
}) {
  const { paceMinutes, hours, cap } = form.watch('connection');
  const asked = { paceMinutes: Number(paceMinutes) || 15, hours, cap: cap ? Number(cap) : null };
  const advice = useQuery({
    queryKey: ['setup', 'pace', mailboxId, asked],
    enabled: mailboxId !== 0,
    queryFn: () =>
      body(api.POST('/api/setup/mailboxes/{id}/pace', { params: { path: { id: mailboxId } }, body: asked })),
  });
  const a = advice.data;
  return (
    <>
      <div className="grid grid-cols-2 gap-x-3">
        <TextField
          label="Look every, in minutes"
          type="number"
          min={1}
          hint={
            pushes
              ? 'Only a safety net: this server tells by itself.'
              : 'Where the server does not tell by itself.'
          }
          {...form.register('connection.paceMinutes')}
        />
        <TextField
          label="Take at most, each look"
          type="number"
          min={1}
          placeholder="any number"
          hint="The rest waits for the next look."
          {...form.register('connection.cap')}
        />
      </div>
      <label className="mb-2 flex items-baseline gap-2">
        <input
          type="checkbox"
          checked={hours !== null}
          onChange={(e) =>
            form.setValue(
              'connection.hours',
              e.target.checked
                ? {
                    from: '07:00',
                    until: '19:00',
                    days: [1, 2, 3, 4, 5],
                    zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
                  }
                : null,
            )
          }
        />
        Only at certain hours
      </label>
      {hours && (
        <div className="mb-3 ml-5">
          <div className="grid grid-cols-3 gap-x-3">
            <TextField label="From" type="time" {...form.register('connection.hours.from')} />
            <TextField label="Until" type="time" {...form.register('connection.hours.until')} />
            <TextField label="Time zone" {...form.register('connection.hours.zone')} />
          </div>
          <p className="flex flex-wrap gap-x-3">
            {days.map((d, i) => (
              <label key={d} className="flex items-baseline gap-1">
                <input
                  type="checkbox"
                  checked={hours.days.includes(i + 1)}
                  onChange={(e) =>
                    form.setValue(
                      'connection.hours.days',
                      e.target.checked
                        ? [...hours.days, i + 1].sort()
                        : hours.days.filter((x) => x !== i + 1),
                    )
                  }
                />
                {d}
              </label>
            ))}
          </p>
        </div>
      )}
      {a && a.looks > 0 && (
        <div className={`mb-3 border-l-4 px-3 py-2 ${a.fits ? 'border-line' : 'border-amber bg-amber-wash'}`}>
          <p>
            New messages between two looks, from this mailbox’s last 90 days: half of them find at most{' '}
            <b>{a.median}</b>, 19 of 20 at most <b>{a.percentile95}</b>, the fullest <b>{a.most}</b>.
          </p>
          <p className={a.fits ? 'text-soft' : 'font-semibold text-amber'}>{a.says}</p>
        </div>
      )}
    </>
  );
}
