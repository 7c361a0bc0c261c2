import { useEffect, useMemo, useState } from 'react';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type {
  Difference,
  PreparedMessage,
  Rehearsal,
  RehearsalViewName,
  Expectation,
  RehearsedRow,
  Sheet,
  Shortfall,
  Verdict,
} from '@/api/types';
import { cut, marksOf, shown } from '@/parts/evidence';
import { Marked } from '@/parts/Marked';
import { OutcomeTag, Reasons } from '@/parts/Reasons';
import { Problem } from '@/parts/States';
import { when } from '@/parts/time';
import { Days } from './Days';
import { Examples, failing, useExamples } from './Examples';
import { Judge } from './Judge';
import type { Span } from './useSheet';

export interface Selection {
  view: RehearsalViewName | 'Examples';
  key?: string;
  title: string;
}

interface Props {
  workflowId: number;
  /** Changes the sheet. */
  onSheet: (sheet: Sheet) => void;
  /** Marks the condition on the sheet that the opened message nearly met. */
  onNear: (conditionId: string | null) => void;
  readOnly: boolean;
  rehearsal: Rehearsal | null;
  rehearsing: boolean;
  span: Span;
  onSpan: (span: Span) => void;
  selection: Selection;
  onSelect: (selection: Selection) => void;
}

/** The workflow run over past messages, nothing carried out. Every count opens its messages. */
export function RehearsalPanel(props: Props) {
  const { workflowId, readOnly, rehearsal, rehearsing, span, onSpan, selection, onSelect } = props;
  const examples = useExamples(workflowId, rehearsal?.id).data;
  const failed = failing(examples).length;
  const s = rehearsal?.summary;
  const tabs: [Selection['view'], string, number | undefined][] = [
    ...(rehearsal?.hasLive
      ? ([['Changes', 'Changes', s?.changes]] as [RehearsalViewName, string, number][])
      : []),
    ['NearMisses', 'Near misses', s?.nearMisses],
    ['TakenIn', 'Taken in', s?.takenIn],
    ['LeftAlone', 'Left alone', s?.leftAlone],
    ...(s && s.skipped > 0
      ? ([['Skipped', 'Skipped', s.skipped]] as [RehearsalViewName, string, number][])
      : []),
    ['Examples', failed > 0 ? 'Kept, failing' : 'Kept', failed > 0 ? failed : examples?.length],
  ];
  const other = !tabs.some(([v]) => v === selection.view);
  return (
    <section aria-label="Rehearsal" className="flex h-full min-h-0 flex-col bg-sheet">
      <header className="px-4 pt-3">
        <div className="flex flex-wrap items-baseline gap-x-3">
          <h2 className="heading">Rehearsal</h2>
          <label className="text-soft">
            edition {rehearsal?.edition ?? '…'} on{' '}
            <select
              aria-label="Which past mail"
              className="bg-transparent font-semibold text-ink underline decoration-dotted"
              value={span ?? 'all'}
              onChange={(e) => onSpan(e.target.value === 'all' ? null : (Number(e.target.value) as Span))}
            >
              <option value={30}>the last 30 days</option>
              <option value={90}>the last 90 days</option>
              <option value="all">all mail</option>
            </select>
            , nothing is sent
          </label>
          <span className="ml-auto text-soft" role="status">
            {rehearsing
              ? 'rehearsing…'
              : rehearsal && s
                ? `${s.messages.toLocaleString('en')} in ${(rehearsal.milliseconds / 1000).toFixed(2)} s`
                : ''}
          </span>
        </div>
        {rehearsal && <Days days={rehearsal.summary.days} />}
        {s && (
          <p className="mt-1 text-[12.5px] text-soft">
            {s.messages.toLocaleString('en')} = {s.takenIn.toLocaleString('en')} taken in +{' '}
            {s.leftAlone.toLocaleString('en')} left alone
            {s.skipped > 0 && ` + ${s.skipped.toLocaleString('en')} skipped`}.{' '}
            {s.heldReplies > 0 && (
              <button
                className="press hover:underline"
                onClick={() => onSelect({ view: 'HeldReplies', title: 'Replies that would wait' })}
              >
                {s.heldReplies.toLocaleString('en')} replies would wait for a person.
              </button>
            )}{' '}
            {s.skippedDeeds > 0 && (
              <button
                className="press hover:underline"
                onClick={() => onSelect({ view: 'SkippedDeeds', title: 'Deeds skipped' })}
              >
                {s.skippedDeeds.toLocaleString('en')} deeds would be skipped.
              </button>
            )}
          </p>
        )}
        <div
          role="tablist"
          aria-label="Messages of the rehearsal"
          className="mt-1 flex flex-wrap gap-x-2.5 border-b border-line text-[12.5px]"
        >
          {tabs.map(([view, label, count]) => (
            <button
              key={view}
              role="tab"
              aria-selected={selection.view === view}
              onClick={() => onSelect({ view, title: label })}
              className={`-mb-px border-b-2 border-transparent pb-1 aria-selected:border-ink aria-selected:font-bold ${
                view === 'Examples' && failed > 0 ? 'text-rust' : 'text-soft aria-selected:text-ink'
              }`}
            >
              {label} {count?.toLocaleString('en') ?? ''}
            </button>
          ))}
          {other && (
            <button role="tab" aria-selected className="-mb-px border-b-2 border-ink pb-1 font-bold">
              {selection.title}
            </button>
          )}
        </div>
      </header>
      <div
        className="min-h-0 flex-1 overflow-y-auto px-4"
        tabIndex={0}
        role="region"
        aria-label={selection.title}
      >
        {rehearsal && selection.view === 'Examples' && (
          <Examples workflowId={workflowId} rehearsal={rehearsal.id} readOnly={readOnly} />
        )}
        {rehearsal && selection.view !== 'Examples' && (
          <Messages
            key={`${selection.view}${selection.key ?? ''}`}
            {...props}
            rehearsal={rehearsal}
            view={selection.view}
          />
        )}
      </div>
    </section>
  );
}

type ListProps = Props & { rehearsal: Rehearsal; view: RehearsalViewName };

function Messages(props: ListProps) {
  const { rehearsal, selection, view, onNear } = props;
  const [limit, setLimit] = useState(1);
  const [open, setOpen] = useState<number | null>(null);
  useEffect(() => () => onNear(null), [onNear]);
  const page = useQuery({
    queryKey: ['rehearsal', rehearsal.id, view, selection.key, limit],
    queryFn: async () => {
      const pages = await Promise.all(
        Array.from({ length: limit }, (_, i) =>
          body(
            api.GET('/api/rehearsals/{id}/messages', {
              params: {
                path: { id: rehearsal.id },
                query: { view, key: selection.key, skip: i * 50 },
              },
            }),
          ),
        ),
      );
      return { messages: pages.flatMap((p) => p.messages) as RehearsedRow[], total: pages[0]!.total };
    },
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
  if (page.error) return <Problem error={page.error} />;
  if (!page.data) return <p className="py-3 text-soft">Loading…</p>;
  if (page.data.total === 0) {
    return (
      <p className="py-3 text-soft">
        {rehearsal.summary.messages === 0
          ? 'There is no past mail in this span. Choose a longer one, or bring in mail files under Mail.'
          : view === 'Changes'
            ? 'To no past message would anything else happen than under the live edition.'
            : 'No message.'}
      </p>
    );
  }
  return (
    <>
      <ul>
        {page.data.messages.map((m) => (
          <li key={m.messageId} className="border-b border-faint">
            <button
              className="flex w-full gap-3 py-1.5 text-left"
              aria-expanded={open === m.messageId}
              onClick={() => {
                setOpen(open === m.messageId ? null : m.messageId);
                onNear(open === m.messageId ? null : (m.shortfall?.conditionId ?? null));
              }}
            >
              <span className="min-w-0 flex-1">
                <span className="block truncate font-semibold">{m.subject || '(no subject)'}</span>
                <span className="block truncate text-soft">
                  {m.senderAddress} · {when(m.arrivedAt)}
                </span>
              </span>
              <span className="w-[46%] shrink-0 text-[12.5px] leading-snug">
                {view === 'Changes' ? (
                  <Differences list={m.differences} />
                ) : (
                  <span className="line-clamp-2 text-soft">
                    {m.shortfall?.byHowLittle ? `${m.why}: ${m.shortfall.byHowLittle}` : m.why}
                  </span>
                )}
                {m.exampleHolds !== null && (
                  <span className={m.exampleHolds ? 'text-kelp' : 'font-semibold text-rust'}>
                    {m.exampleHolds ? 'kept, holds' : 'kept, fails'}
                  </span>
                )}
              </span>
            </button>
            {open === m.messageId && <Opened {...props} id={m.messageId} />}
          </li>
        ))}
      </ul>
      {page.data.messages.length < page.data.total && (
        <button className="link py-2" onClick={() => setLimit(limit + 1)}>
          Show more of {page.data.total.toLocaleString('en')}
        </button>
      )}
    </>
  );
}

/** Old value struck out, an arrow, the new value in bold. */
export function Differences({ list }: { list: Difference[] }) {
  return (
    <>
      {list.map((d) => (
        <span key={d.what} className="block">
          {d.before === null ? (
            <span className="sr-only">new: </span>
          ) : (
            <del className="text-soft">
              <span className="sr-only">was </span>
              {d.before}
            </del>
          )}{' '}
          {d.after === null ? (
            <span className="text-soft">→ nothing</span>
          ) : (
            <>
              {d.before === null ? '+ ' : '→ '}
              <strong>{d.after}</strong>
            </>
          )}
        </span>
      ))}
    </>
  );
}

function Opened({ workflowId, onSheet, readOnly, span, rehearsal, id }: ListProps & { id: number }) {
  const opened = useQuery({
    queryKey: ['rehearsal', rehearsal.id, 'message', id],
    queryFn: () =>
      body(
        api.GET('/api/rehearsals/{id}/messages/{messageId}', {
          params: { path: { id: rehearsal.id, messageId: id } },
        }),
      ) as Promise<{
        message: PreparedMessage;
        live: Verdict | null;
        inHand: Verdict;
        differences: Difference[];
        shortfall: Shortfall | null;
        example: Expectation | null;
      }>,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  const [lit, setLit] = useState<number | null>(null);
  const marks = useMemo(() => marksOf(opened.data?.inHand ?? null), [opened.data]);
  if (opened.error) return <Problem error={opened.error} />;
  if (!opened.data) return null;
  const { message: m, inHand, differences, shortfall, example } = opened.data;
  const fresh = m.body.stretches.filter((s) => s.kind === 'New');
  const stretches = fresh.some((s) => m.body.text.slice(s.start, s.start + s.length).trim() !== '')
    ? fresh
    : m.body.stretches;
  const subject = cut(
    m.subject,
    0,
    m.subject.length,
    marks.filter((x) => x.evidence.place === 'Subject'),
  ).some((p) => p.reasons.length > 0);
  return (
    <div className="mb-2 border border-l-[3px] border-line border-l-sea bg-paper px-3 py-2">
      <p className="text-soft">
        <Marked text={shown(m.from)} place="Sender" marks={marks} lit={lit} setLit={setLit} />
        {m.originallyTo.length > 0 && ` · to ${m.originallyTo.join(', ')}`}
      </p>
      {subject && (
        <p className="font-semibold">
          <Marked text={m.subject} place="Subject" marks={marks} lit={lit} setLit={setLit} />
        </p>
      )}
      <p className="max-h-[230px] overflow-y-auto py-1 break-words whitespace-pre-wrap">
        {stretches.map((s) => (
          <Marked
            key={s.start}
            text={m.body.text}
            start={s.start}
            end={s.start + s.length}
            place="Body"
            marks={marks}
            lit={lit}
            setLit={setLit}
          />
        ))}
      </p>
      <div className="mt-1 border-t border-dashed border-line pt-1.5">
        <p className="mb-0.5">
          <OutcomeTag verdict={inHand} />
        </p>
        <Reasons verdict={inHand} lit={lit} setLit={setLit} />
        {shortfall?.byHowLittle && (
          <p className="text-amber">
            It missed by one condition, {shortfall.text}: {shortfall.byHowLittle}.
          </p>
        )}
        {inHand.deeds.length > 0 && (
          <ul className="mt-1 text-soft">
            {inHand.deeds.map((d, i) => (
              <li key={i}>
                <span className={d.skippedBecause ? 'line-through' : 'text-ink'}>{d.says}</span>
                {d.skippedBecause && `, skipped: ${d.skippedBecause}`}
                {d.heldBecause && `, held: ${d.heldBecause}`}
              </li>
            ))}
          </ul>
        )}
      </div>
      {!readOnly && (
        <Judge
          workflowId={workflowId}
          rehearsal={rehearsal}
          messageId={id}
          verdict={inHand}
          changed={differences.length > 0}
          example={example}
          days={span}
          onSheet={onSheet}
        />
      )}
    </div>
  );
}
