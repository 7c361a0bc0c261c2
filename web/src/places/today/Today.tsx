import { Link } from '@tanstack/react-router';
import { format } from 'date-fns';
import type { ReactNode } from 'react';
import type { TodayView } from '@/api/types';
import { Loaded } from '@/parts/States';
import { ago, timeLeft, when } from '@/parts/time';
import { DayTide } from './DayTide';
import { healthWords } from '../setup/MailboxHealthLines';
import { useToday } from './useToday';

/** What came in, what waits, what needs a person. */
export function Today() {
  return (
    <div className="h-full overflow-y-auto px-6 pb-10">
      <Loaded query={useToday()}>{(today) => <TodaySheet today={today} />}</Loaded>
    </div>
  );
}

function TodaySheet({ today }: { today: TodayView }) {
  const waiting = today.queues.reduce((sum, q) => sum + q.open, 0);
  const day = today.days.at(-1);
  return (
    <>
      <header className="flex flex-wrap items-baseline gap-x-4 py-3">
        <h1 className="title">{format(new Date(today.now), 'EEEE d MMMM')}</h1>
        <p className="text-soft">
          {waiting === 0
            ? 'Nothing waits for people.'
            : `${waiting} ${waiting === 1 ? 'item waits' : 'items wait'} for people.`}
          {today.notPlannedYet > 0 && ` ${today.notPlannedYet} just came in and are being looked at.`}
        </p>
      </header>
      <div className="grid grid-cols-[minmax(0,1fr)_372px] gap-7">
        <div className="min-w-0">
          <section className="mb-5 border border-line bg-sheet px-4 pt-3 pb-2" aria-labelledby="tide">
            <div className="mb-1 flex items-baseline gap-4">
              <h2 id="tide" className="heading">
                The day’s tide
              </h2>
              <span className="text-soft">the last 24 hours</span>
              <Legend />
            </div>
            <DayTide hours={today.hours} />
          </section>
          <WorkflowsSinceMidnight today={today} />
          {day && (
            <p className="mt-2 mb-6 text-soft">
              {day.all} came in = {day.takenIn} taken in + {day.leftAlone} left alone
              {day.copies > 0 && ` + ${day.copies} copies`}
              {day.unreadable > 0 && ` + ${day.unreadable} unreadable`}. {today.deeds.all} deeds ={' '}
              {today.deeds.done} done + {today.deeds.waiting} waiting + {today.deeds.stuck} stuck +{' '}
              {today.deeds.skipped} skipped. Days end at midnight UTC.
            </p>
          )}
          <Latest today={today} />
        </div>
        <aside className="min-w-0">
          <Needs today={today} />
          <Mailboxes today={today} />
          <QueueTable today={today} />
        </aside>
      </div>
    </>
  );
}

function Legend() {
  const key = (colour: string, text: string) => (
    <span className="flex items-center gap-1.5">
      <span className="inline-block h-2.5 w-2.5" style={{ background: colour }} />
      {text}
    </span>
  );
  return (
    <span className="ml-auto flex gap-4 text-[12.5px] text-soft">
      {key('var(--tide-1)', 'in queues')}
      {key('var(--tide-3)', 'came in')}
      {key('var(--tide-2)', 'taken in by workflows')}
    </span>
  );
}

function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="mb-6">
      <h2 className="heading mb-0.5">{title}</h2>
      {children}
    </section>
  );
}

const dash = (n: number) => (n === 0 ? '—' : n);

function WorkflowsSinceMidnight({ today }: { today: TodayView }) {
  return (
    <section>
      <h2 className="heading mb-0.5">Workflows since midnight</h2>
      <table className="table">
        <thead>
          <tr>
            <th>Workflow</th>
            <th className="num">Messages</th>
            <th className="num">Deeds done</th>
            <th className="num">Waiting</th>
            <th className="num">Stuck</th>
            <th className="num !pr-0">Skipped</th>
          </tr>
        </thead>
        <tbody>
          {today.workflows.map((w) => (
            <tr key={w.id} className="opens">
              <td className="font-semibold">
                <Link
                  to="/workflows/$id"
                  params={{ id: String(w.id) }}
                  className="no-underline hover:underline"
                >
                  {w.name}
                </Link>
              </td>
              <td className="num">
                {w.messages === 0 ? (
                  '—'
                ) : (
                  <Link to="/mail" search={{ workflow: w.id }} className="link">
                    {w.messages}
                  </Link>
                )}
              </td>
              <td className="num">{dash(w.done)}</td>
              <td className="num">{dash(w.waiting)}</td>
              <td className={`num ${w.stuck > 0 ? 'font-bold text-rust' : ''}`}>{dash(w.stuck)}</td>
              <td className="num !pr-0">{dash(w.skipped)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {today.workflows.length === 0 && (
        <p className="py-2 text-soft">
          There is no workflow yet.{' '}
          <Link to="/workflows" className="link">
            Begin one
          </Link>
        </p>
      )}
    </section>
  );
}

const needLooks: Record<string, string> = {
  mailbox: 'text-rust',
  held: 'text-amber',
  stuck: 'text-rust',
  overdue: 'text-rust',
  checking: 'text-plum',
  unreadable: 'text-amber',
};

function Needs({ today }: { today: TodayView }) {
  const first = today.queues.find((q) => q.overdue > 0);
  return (
    <section className="mb-6">
      <h2 className="heading border-b border-ink pb-0.5">Needs a person</h2>
      {today.needsPerson.length === 0 && <p className="py-3 text-soft">Nothing does just now.</p>}
      {today.needsPerson.map((n) => (
        <div key={n.kind} className="flex items-baseline gap-3 border-b border-faint py-2">
          <span className={`w-8 text-[16px] font-bold ${needLooks[n.kind]}`}>{n.count}</span>
          <span className="flex-1">
            {n.text}
            {n.oldest && <span className="block text-soft">oldest {ago(n.oldest)}</span>}
          </span>
          {n.kind === 'checking' && (
            <Link to="/replies" search={{ show: 'Checking' }} className="link">
              Check
            </Link>
          )}
          {n.kind === 'overdue' && first && (
            <Link to="/queues" search={{ queue: first.id }} className="link">
              Open
            </Link>
          )}
          {n.kind === 'stuck' && (
            <Link to="/log" search={{ tab: 'deeds', outcome: 'Stuck' }} className="link">
              Open
            </Link>
          )}
          {n.kind === 'mailbox' && (
            <Link to="/log" search={{ outcome: 'Failed' }} className="link">
              Look
            </Link>
          )}
          {n.kind === 'held' && (
            <Link to="/mail" search={{ show: 'Held' }} className="link">
              Look
            </Link>
          )}
          {n.kind === 'unreadable' && (
            <Link to="/mail" search={{ show: 'Unreadable' }} className="link">
              Look
            </Link>
          )}
        </div>
      ))}
    </section>
  );
}

/** How the connected mailboxes are doing: last look, what is behind, the trouble in words. */
function Mailboxes({ today }: { today: TodayView }) {
  if (today.mailboxes.length === 0) return null;
  return (
    <section className="mb-6">
      <h2 className="heading flex items-baseline border-b border-ink pb-0.5">
        Mailboxes
        <Link to="/log" className="link ml-auto text-[13px]" style={{ fontFamily: 'var(--font-sans)' }}>
          Log
        </Link>
      </h2>
      {today.mailboxes.map((m) => (
        <div key={m.id} className="border-b border-faint py-1.5">
          <Link
            to="/setup"
            search={{ part: 'mailboxes', id: m.id }}
            className="font-semibold no-underline hover:underline"
          >
            {m.name}
          </Link>
          <p className={m.health.problem && !m.health.paused ? 'text-rust' : 'text-soft'}>
            {healthWords(m.health)}
          </p>
        </div>
      ))}
    </section>
  );
}

function QueueTable({ today }: { today: TodayView }) {
  const now = new Date(today.now);
  return (
    <Section title="Queues">
      <table className="table">
        <thead>
          <tr>
            <th>Queue</th>
            <th className="num">Open</th>
            <th className="num">Overdue</th>
            <th className="num !pr-0">Next due</th>
          </tr>
        </thead>
        <tbody>
          {today.queues.map((q) => (
            <tr key={q.id} className="opens">
              <td>
                <Link to="/queues" search={{ queue: q.id }} className="no-underline hover:underline">
                  {q.name}
                </Link>
              </td>
              <td className="num">{dash(q.open)}</td>
              <td className={`num ${q.overdue > 0 ? 'font-bold text-rust' : ''}`}>{dash(q.overdue)}</td>
              <td className="num !pr-0">{timeLeft(q.nextDue, now)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}

function Latest({ today }: { today: TodayView }) {
  return (
    <Section title="Came in last">
      <table className="table table-fixed">
        <tbody>
          {today.latest.map((m) => (
            <tr key={m.id} className="opens">
              <td className="w-[96px] text-soft">{when(m.arrivedAt)}</td>
              <td className="w-[190px] truncate">{m.senderName || m.senderAddress}</td>
              <td className="truncate">
                <Link to="/mail" search={{ id: m.id }} className="font-semibold no-underline hover:underline">
                  {m.subject || '(no subject)'}
                </Link>
              </td>
              <td className="num w-[110px] !pr-0 text-soft">
                {m.state === 'Arrived'
                  ? 'being looked at'
                  : m.state === 'Unreadable'
                    ? 'unreadable'
                    : m.duplicate
                      ? 'a copy'
                      : m.state === 'Held'
                        ? 'held'
                        : m.takenIn
                          ? 'taken in'
                          : m.old
                            ? 'old mail'
                            : 'left alone'}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {today.latest.length === 0 && (
        <p className="py-2 text-soft">
          No mail has come in yet. Send some to one of the addresses in{' '}
          <Link to="/setup" className="link">
            Setup
          </Link>
          , or bring in files under Mail.
        </p>
      )}
    </Section>
  );
}
