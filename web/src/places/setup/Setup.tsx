import { Link, useNavigate, useSearch } from '@tanstack/react-router';
import type { SetupView } from '@/api/types';
import { useMay } from '@/api/session';
import { Loaded } from '@/parts/States';
import { when } from '@/parts/time';
import { useSetup } from '@/parts/useSetup';
import { DeskHoursForm } from './DeskHoursForm';
import { DestinationForm, DoNotMailForm, QueueForm, TemplateForm } from './forms';
import { KeywordListForm } from './KeywordListForm';
import { MailboxForm } from './MailboxForm';
import { OutsideSorterForm } from './OutsideSorterForm';
import { SavedConditionForm } from './SavedConditionForm';

const parts = [
  {
    part: 'mailboxes',
    label: 'Mailboxes',
    about:
      'Where mail comes in: read from a mail server, sent here by SMTP, or brought in as files. Mail sent here to an address that stands nowhere is refused.',
  },
  {
    part: 'queues',
    label: 'Queues',
    about: 'Shared work. A queue that still holds items or stands on a sheet cannot be removed.',
  },
  {
    part: 'lists',
    label: 'Keyword lists',
    about: 'Words and phrases shared by workflows. Looking for ten thousand costs what looking for one does.',
  },
  {
    part: 'conditions',
    label: 'Saved conditions',
    about: 'Conditions under a name. A change here changes every sheet that uses it.',
  },
  {
    part: 'templates',
    label: 'Templates',
    about: 'Texts of replies, in Liquid. A reply with a value missing waits for a person.',
  },
  {
    part: 'destinations',
    label: 'Destinations',
    about: 'Other applications. Only addresses entered here are ever called.',
  },
  {
    part: 'do-not-mail',
    label: 'Do-not-mail list',
    about: 'Addresses and domains that are never written to.',
  },
  {
    part: 'outside-sorter',
    label: 'Outside sorter',
    about: 'A service that may be asked to sort. Off until a keeper switches it on.',
  },
  {
    part: 'hours',
    label: 'Desk’s hours',
    about: 'The clocks and business hours that conditions on time go by.',
  },
  { part: 'people', label: 'People', about: 'Who can sign in, and what they may do.' },
  { part: 'log', label: 'Audit log', about: 'Who set up what. Only ever added to.' },
] as const;

/** Setup: what there is on the left, the form of the chosen one on the right. */
export function Setup() {
  const { part = 'mailboxes', id } = useSearch({ from: '/setup' });
  const navigate = useNavigate({ from: '/setup' });
  const chosen = parts.find((p) => p.part === part) ?? parts[0];
  return (
    <div className="grid h-full grid-cols-[216px_minmax(0,1fr)]">
      <nav aria-label="Setup" className="min-h-0 overflow-y-auto border-r border-line py-3">
        <h1 className="title px-4 pb-2 !text-[21px]">Setup</h1>
        {parts.map((p) => (
          <button
            key={p.part}
            aria-current={p === chosen ? 'true' : undefined}
            onClick={() => void navigate({ search: { part: p.part } })}
            className="block w-full border-l-[3px] border-transparent py-1 pl-[13px] text-left aria-[current]:border-l-sea aria-[current]:bg-sheet aria-[current]:font-semibold hover:bg-sheet"
          >
            {p.label}
          </button>
        ))}
        <Link to="/log" className="mt-3 block border-t border-line px-4 pt-3 no-underline hover:underline">
          Log of looks, catch-ups and deeds
        </Link>
        <Link to="/catch-up" className="block px-4 pt-1 no-underline hover:underline">
          Catch-up
        </Link>
      </nav>
      <section aria-label={chosen.label} className="min-h-0 overflow-y-auto px-6 pb-10" tabIndex={0}>
        <header className="py-3">
          <h2 className="heading">{chosen.label}</h2>
          <p className="text-soft">{chosen.about}</p>
        </header>
        <Loaded query={useSetup()}>
          {(setup) => (
            <PartOf
              part={chosen.part}
              setup={setup}
              id={id}
              onChoose={(next) => void navigate({ search: { part: chosen.part, id: next } })}
            />
          )}
        </Loaded>
      </section>
    </div>
  );
}

function mailboxNote(m: SetupView['mailboxes'][number]): string {
  const addresses = m.addresses.map((a) => a.address).join(', ');
  if (!m.connection) return `By SMTP. ${addresses}`;
  const state = m.connection.paused ? 'Paused' : m.health?.problem ? 'Cannot be read' : 'Read';
  return `${state} from ${m.connection.host}, ${m.connection.folder}. ${addresses}`;
}

interface PartProps {
  part: (typeof parts)[number]['part'];
  setup: SetupView;
  id: number | undefined;
  onChoose: (id: number | undefined) => void;
}

function PartOf({ part, setup, id, onChoose }: PartProps) {
  const keeper = useMay('keeper');
  const builder = useMay('builder');
  const close = () => onChoose(undefined);
  switch (part) {
    case 'mailboxes':
      return (
        <Chooser
          rows={setup.mailboxes.map((m) => ({ id: m.id, name: m.name, note: mailboxNote(m) }))}
          {...{ id, onChoose }}
          noun="mailbox"
          may={keeper}
          form={(chosen) => (
            <MailboxForm
              key={id}
              record={setup.mailboxes.find((m) => m.id === chosen)}
              may={keeper}
              onDone={close}
            />
          )}
        />
      );
    case 'queues':
      return (
        <Chooser
          rows={setup.queues.map((q) => ({ id: q.id, name: q.name, note: '' }))}
          {...{ id, onChoose }}
          noun="queue"
          may={keeper}
          form={(chosen) => (
            <QueueForm
              key={id}
              record={setup.queues.find((q) => q.id === chosen)}
              may={keeper}
              onDone={close}
            />
          )}
        />
      );
    case 'lists':
      return (
        <Chooser
          rows={setup.keywordLists.map((l) => ({
            id: l.id,
            name: l.name,
            note: `${l.words.length.toLocaleString('en')} words. ${l.description}`,
          }))}
          {...{ id, onChoose }}
          noun="keyword list"
          may={builder}
          form={(chosen) => (
            <KeywordListForm
              key={id}
              record={setup.keywordLists.find((l) => l.id === chosen)}
              may={builder}
              onDone={close}
            />
          )}
        />
      );
    case 'conditions':
      return (
        <Chooser
          rows={setup.savedConditions.map((c) => ({ id: c.id, name: c.name, note: c.description }))}
          {...{ id, onChoose }}
          noun="saved condition"
          may={builder}
          form={(chosen) => (
            <SavedConditionForm
              key={id}
              record={setup.savedConditions.find((c) => c.id === chosen)}
              may={builder}
              onDone={close}
            />
          )}
        />
      );
    case 'hours':
      return <DeskHoursForm key={JSON.stringify(setup.deskHours)} record={setup.deskHours} may={keeper} />;
    case 'outside-sorter':
      return <OutsideSorterForm may={keeper} />;
    case 'templates':
      return (
        <Chooser
          rows={setup.templates.map((t) => ({
            id: t.id,
            name: t.name,
            note: t.attachmentName ? `with ${t.attachmentName}` : '',
          }))}
          {...{ id, onChoose }}
          noun="template"
          may={builder}
          form={(chosen) => (
            <TemplateForm
              key={id}
              record={setup.templates.find((t) => t.id === chosen)}
              facts={setup.facts}
              may={builder}
              onDone={close}
            />
          )}
        />
      );
    case 'destinations':
      return (
        <Chooser
          rows={setup.destinations.map((d) => ({ id: d.id, name: d.name, note: d.url }))}
          {...{ id, onChoose }}
          noun="destination"
          may={keeper}
          form={(chosen) => (
            <DestinationForm
              key={id}
              record={setup.destinations.find((d) => d.id === chosen)}
              may={keeper}
              onDone={close}
            />
          )}
        />
      );
    case 'do-not-mail':
      return <DoNotMailForm key={setup.doNotMail.entries.join()} record={setup.doNotMail} may={keeper} />;
    case 'people':
      return (
        <table className="table max-w-[760px]">
          <thead>
            <tr>
              <th>Name</th>
              <th>E-mail address</th>
              <th>Permissions</th>
            </tr>
          </thead>
          <tbody>
            {setup.people.map((p) => (
              <tr key={p.email}>
                <td className="font-semibold">{p.name}</td>
                <td>{p.email}</td>
                <td>{p.permissions.join(', ')}</td>
              </tr>
            ))}
          </tbody>
        </table>
      );
    case 'log':
      return (
        <table className="table max-w-[860px]">
          <tbody>
            {setup.log.map((l, i) => (
              <tr key={i}>
                <td className="w-[110px] text-soft">{when(l.at)}</td>
                <td className="w-[150px]">{l.person}</td>
                <td>{l.what}</td>
              </tr>
            ))}
            {setup.log.length === 0 && (
              <tr>
                <td className="text-soft">Nothing was changed yet.</td>
              </tr>
            )}
          </tbody>
        </table>
      );
  }
}

interface ChooserProps {
  rows: { id: number; name: string; note: string }[];
  id: number | undefined;
  onChoose: (id: number | undefined) => void;
  noun: string;
  may: boolean;
  form: (chosen: number) => React.ReactNode;
}

/** A list of records and the form of the chosen one; id 0 is a new one. */
function Chooser({ rows, id, onChoose, noun, may, form }: ChooserProps) {
  return (
    <div className="grid max-w-[1120px] grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)] gap-8">
      <div>
        <ul className="border-t border-ink">
          {rows.map((r) => (
            <li key={r.id}>
              <button
                aria-current={r.id === id ? 'true' : undefined}
                onClick={() => onChoose(r.id)}
                className="w-full border-b border-l-[3px] border-faint border-l-transparent py-1.5 pl-2 text-left aria-[current]:border-l-sea aria-[current]:bg-sheet hover:bg-sheet"
              >
                <span className="block font-semibold">{r.name}</span>
                <span className="block break-words text-soft">{r.note}</span>
              </button>
            </li>
          ))}
        </ul>
        {rows.length === 0 && <p className="py-3 text-soft">There is no {noun} yet.</p>}
        {may && (
          <button className="link mt-2" onClick={() => onChoose(0)}>
            Add a {noun}
          </button>
        )}
      </div>
      <div>{id !== undefined && form(id)}</div>
    </div>
  );
}
