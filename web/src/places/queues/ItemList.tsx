import type { ItemRow, QueueLoad } from '@/api/types';
import { Tag } from '@/parts/Tag';
import { dueGroup, dueGroups, timeLeft, when } from '@/parts/time';

type Show = 'open' | 'mine' | 'waiting';

interface Props {
  queues: QueueLoad[];
  queueId: number;
  items: ItemRow[];
  all: ItemRow[];
  doneToday: number;
  loading: boolean;
  show: Show;
  chosen: number | undefined;
  now: Date;
  onQueue: (id: number) => void;
  onShow: (show: Show) => void;
  onOpen: (id: number) => void;
}

const tones: Record<string, string> = { Overdue: 'text-rust', 'Within the hour': 'text-amber' };

/** The items of a queue, grouped by when they are due, time left first. */
export function ItemList(props: Props) {
  const { queues, queueId, items, all, show, now } = props;
  const counts: Record<Show, number> = {
    open: all.filter((i) => i.state === 'Open').length,
    mine: all.filter((i) => i.mine).length,
    waiting: all.filter((i) => i.state === 'Waiting').length,
  };
  return (
    <>
      <header className="border-b border-line px-4 pt-3 pb-2">
        <div className="flex items-baseline gap-2">
          <label className="min-w-0 flex-1">
            <span className="sr-only">Queue</span>
            <select
              value={queueId}
              onChange={(e) => props.onQueue(Number(e.target.value))}
              className="title -ml-1 w-full cursor-pointer truncate bg-transparent !text-[21px]"
            >
              {queues.map((q) => (
                <option key={q.id} value={q.id} className="bg-sheet font-sans text-[14px]">
                  {q.name}
                  {q.open > 0 ? ` · ${q.open}` : ''}
                </option>
              ))}
            </select>
          </label>
          <span className="text-soft">{props.doneToday} done today</span>
        </div>
        <div role="tablist" aria-label="Which items" className="mt-1 flex gap-4">
          {(['open', 'mine', 'waiting'] as const).map((s) => (
            <button
              key={s}
              role="tab"
              aria-selected={show === s}
              onClick={() => props.onShow(s)}
              className="text-soft aria-selected:font-bold aria-selected:text-ink"
            >
              {s === 'open' ? 'Open' : s === 'mine' ? 'Mine' : 'Waiting'} {counts[s]}
            </button>
          ))}
        </div>
      </header>
      <div className="min-h-0 flex-1 overflow-y-auto" tabIndex={0} aria-label="Items" role="region">
        {props.loading && <p className="px-4 py-3 text-soft">Loading…</p>}
        {dueGroups.map((group) => {
          const rows = items.filter((i) => dueGroup(i.dueAt, now) === group);
          return rows.length === 0 ? null : (
            <section key={group}>
              <h2 className={`caps flex items-center gap-2 px-4 pt-2 ${tones[group] ?? ''}`}>
                {group} {rows.length}
                <span className="h-px flex-1 bg-line" />
              </h2>
              <ul>
                {rows.map((item) => (
                  <li key={item.id}>
                    <button
                      onClick={() => props.onOpen(item.id)}
                      aria-current={item.id === props.chosen ? 'true' : undefined}
                      className="flex w-full gap-2 border-b border-l-[3px] border-faint border-l-transparent py-1.5 pr-4 pl-[13px] text-left aria-[current]:border-l-sea aria-[current]:bg-sheet hover:bg-sheet"
                    >
                      <span className={`w-[54px] shrink-0 font-semibold ${tones[group] ?? ''}`}>
                        {timeLeft(item.dueAt, now)}
                      </span>
                      <span className="min-w-0 flex-1">
                        <span className="block truncate font-semibold">{item.subject || '(no subject)'}</span>
                        <span className="block truncate text-soft">
                          {item.senderName || item.senderAddress}
                          {item.attachmentCount > 0 &&
                            ` · ${item.attachmentCount} ${item.attachmentCount === 1 ? 'file' : 'files'}`}
                          {item.waitsUntil && ` · waits until ${when(item.waitsUntil)}`}
                        </span>
                      </span>
                      {item.takenBy && (
                        <span className="shrink-0">
                          <Tag tone="sea">{item.mine ? 'you' : item.takenBy}</Tag>
                        </span>
                      )}
                    </button>
                  </li>
                ))}
              </ul>
            </section>
          );
        })}
        {!props.loading && items.length === 0 && <p className="px-4 py-4 text-soft">Nothing here.</p>}
      </div>
    </>
  );
}
