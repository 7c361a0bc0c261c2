import { Link, useNavigate, useSearch } from '@tanstack/react-router';
import { useSetup } from '@/parts/useSetup';
import { useWorkflows } from '@/parts/useWorkflows';
import { DeedLog } from './DeedLog';
import { RunLog } from './RunLog';

export interface LogSearch {
  tab?: 'runs' | 'deeds';
  run?: number;
  mailbox?: number;
  workflow?: number;
  outcome?: string;
  text?: string;
  from?: string;
  until?: string;
}

/** The log: looks and catch-ups with their accounts, and every deed; found by what one remembers of them. */
export function Log() {
  const search: LogSearch = useSearch({ from: '/log' });
  const navigate = useNavigate({ from: '/log' });
  const setup = useSetup().data;
  const workflows = useWorkflows().data ?? [];
  const tab = search.tab ?? 'runs';
  const put = (change: Partial<LogSearch>) =>
    void navigate({ search: { ...search, ...change }, replace: true });
  return (
    <div className="flex h-full flex-col">
      <header className="border-b border-line px-6 pt-3 pb-2">
        <div className="flex items-baseline gap-6">
          <h1 className="title !text-[21px]">Log</h1>
          {(['runs', 'deeds'] as const).map((t) => (
            <button
              key={t}
              aria-current={t === tab ? 'page' : undefined}
              className="border-b-2 border-transparent pb-0.5 aria-[current]:border-sea aria-[current]:font-semibold hover:text-sea"
              onClick={() => put({ tab: t, outcome: undefined, run: undefined })}
            >
              {t === 'runs' ? 'Looks and catch-ups' : 'Deeds'}
            </button>
          ))}
          <Link to="/setup" search={{ part: 'log' }} className="link ml-auto">
            Who set up what
          </Link>
        </div>
        <div className="mt-2 flex flex-wrap gap-2">
          <input
            type="search"
            aria-label="Find in the log"
            placeholder={tab === 'runs' ? 'Words of an error, a person' : 'A subject, a sender, a reason'}
            className="boxed w-[240px]"
            defaultValue={search.text ?? ''}
            onChange={(e) => put({ text: e.target.value || undefined })}
          />
          <Choose
            label="Mailbox"
            all="every mailbox"
            value={search.mailbox}
            options={setup?.mailboxes ?? []}
            onChange={(mailbox) => put({ mailbox })}
          />
          <Choose
            label="Workflow"
            all="every workflow"
            value={search.workflow}
            options={workflows}
            onChange={(workflow) => put({ workflow })}
          />
          <select
            aria-label="Outcome"
            className="boxed"
            value={search.outcome ?? ''}
            onChange={(e) => put({ outcome: e.target.value || undefined })}
          >
            <option value="">every outcome</option>
            {(tab === 'runs'
              ? [
                  ['Finished', 'finished'],
                  ['Running', 'under way'],
                  ['Failed', 'failed'],
                  ['Stopped', 'stopped'],
                  ['Draft', 'not confirmed'],
                ]
              : [
                  ['Done', 'done'],
                  ['Waiting', 'waiting'],
                  ['Stuck', 'stuck'],
                  ['Skipped', 'skipped'],
                ]
            ).map(([value, label]) => (
              <option key={value} value={value}>
                {label}
              </option>
            ))}
          </select>
          <Day label="From" value={search.from} onChange={(from) => put({ from })} />
          <Day label="Until" value={search.until} onChange={(until) => put({ until })} />
        </div>
      </header>
      <div
        className="min-h-0 flex-1 overflow-y-auto px-6 pb-10"
        tabIndex={0}
        role="region"
        aria-label="Log entries"
      >
        {tab === 'runs' ? <RunLog search={search} /> : <DeedLog search={search} />}
      </div>
    </div>
  );
}

function Choose({
  label,
  all,
  value,
  options,
  onChange,
}: {
  label: string;
  all: string;
  value: number | undefined;
  options: { id: number; name: string }[];
  onChange: (id: number | undefined) => void;
}) {
  return (
    <select
      aria-label={label}
      className="boxed max-w-[170px]"
      value={value ?? ''}
      onChange={(e) => onChange(e.target.value ? Number(e.target.value) : undefined)}
    >
      <option value="">{all}</option>
      {options.map((o) => (
        <option key={o.id} value={o.id}>
          {o.name}
        </option>
      ))}
    </select>
  );
}

function Day({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string | undefined;
  onChange: (day: string | undefined) => void;
}) {
  return (
    <label className="flex items-center gap-1.5 text-soft">
      {label.toLowerCase()}
      <input
        type="date"
        className="boxed text-ink"
        value={value ?? ''}
        onChange={(e) => onChange(e.target.value || undefined)}
      />
    </label>
  );
}
