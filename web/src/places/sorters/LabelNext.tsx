import { useState } from 'react';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import { useMay } from '@/api/session';
import type { SorterLook, SorterView } from '@/api/types';
import { Button } from '@/parts/Button';
import type { Mark } from '@/parts/evidence';
import { Marked } from '@/parts/Marked';
import { notify } from '@/parts/Notices';
import { Loaded } from '@/parts/States';
import { when } from '@/parts/time';
import { useKeys } from '@/parts/useKeys';
import { LearningCurve } from './LearningCurve';
import { keyOf, SuretyList } from '@/parts/SuretyList';
import { nameOf } from './words';

const atOnce = 6;

/** Words that weigh less than this share of the heaviest are not marked. */
const lightest = 0.2;

/** The message the sorter would learn most from, labelled with one key. */
export function LabelNext({ view }: { view: SorterView }) {
  const may = useMay('builder');
  const client = useQueryClient();
  const [passed, setPassed] = useState<number[]>([]);
  const [given, setGiven] = useState<{ messageId: number; had: boolean; categoryId: string | null }[]>([]);
  const trained = view.numbers.some((n) => n.hasModel);
  const trainedAt = view.numbers.find((n) => n.number === view.number)?.trainedAt ?? '';
  const next = useQuery({
    queryKey: ['sorters', view.id, 'next', trainedAt],
    enabled: trained,
    staleTime: Infinity,
    placeholderData: (before: SorterLook[] | undefined) => before,
    queryFn: () =>
      body(
        api.GET('/api/sorters/{id}/next', {
          params: { path: { id: view.id }, query: { count: atOnce, passed } },
        }),
      ) as Promise<SorterLook[]>,
  });
  const done = new Set([...passed, ...given.map((g) => g.messageId)]);
  const left = (next.data ?? []).filter((l) => !done.has(l.message.id));
  const look = left[0];
  const more = () => {
    if (left.length <= 1) void client.invalidateQueries({ queryKey: ['sorters', view.id, 'next'] });
  };
  // One after the other: a label that is taken back must have been given before.
  const scope = { id: `labels of ${view.id}` };
  const label = useMutation({
    scope,
    mutationFn: ({ messageId, categoryId }: { messageId: number; categoryId: string | null }) =>
      body(
        api.PUT('/api/sorters/{id}/labels', {
          params: { path: { id: view.id } },
          body: { messageId, categoryId },
        }),
      ),
    onMutate: ({ messageId }) => {
      setGiven((g) => [...g, { messageId, had: false, categoryId: null }]);
      more();
    },
    onError: (error, { messageId }) => {
      setGiven((g) => g.filter((x) => x.messageId !== messageId));
      notify({ text: error.message, tone: 'problem' });
    },
    onSuccess: () => void client.invalidateQueries({ queryKey: ['sorters', view.id], exact: true }),
  });
  const undo = useMutation({
    scope,
    mutationFn: (messageId: number) =>
      api.DELETE('/api/sorters/{id}/labels/{messageId}', { params: { path: { id: view.id, messageId } } }),
    onSuccess: (_, messageId) => {
      setGiven((g) => g.filter((x) => x.messageId !== messageId));
      void client.invalidateQueries({ queryKey: ['sorters', view.id], exact: true });
    },
  });
  const choose = (categoryId: string | null) =>
    look && label.mutate({ messageId: look.message.id, categoryId });
  const pass = () => {
    if (!look) return;
    setPassed((p) => [...p, look.message.id]);
    more();
  };
  const last = given.at(-1);
  const sureties = look ? allOf(view, look) : [];
  useKeys(
    may && look
      ? {
          ...Object.fromEntries(
            sureties.flatMap((s, i) => {
              const key = keyOf(i, s.categoryId);
              return key ? [[key, () => choose(s.categoryId)]] : [];
            }),
          ),
          ArrowRight: pass,
          u: last && (() => undo.mutate(last.messageId)),
        }
      : { u: last && (() => undo.mutate(last.messageId)) },
  );
  return (
    <>
      <div className="flex items-baseline gap-3 border-b border-ink pb-1">
        <h2 className="heading">Label next</h2>
        <span className="text-soft">the message it would learn most from</span>
      </div>
      {!trained ? (
        <p className="py-3 text-soft">
          {view.settings.categories.length === 0
            ? 'Add a category first.'
            : 'It is being trained on the descriptions; then the first messages come.'}
        </p>
      ) : (
        <Loaded query={next}>
          {() =>
            look ? (
              <>
                <Look key={look.message.id} look={look} />
                <div className="mt-2 border-t border-line pt-2">
                  <SuretyList
                    sureties={sureties}
                    name={(id) => nameOf(view.settings, id)}
                    letter={keyOf}
                    onChoose={choose}
                    disabled={!may}
                  />
                </div>
                <p className="mt-2 flex items-center gap-4">
                  <Button onClick={pass}>
                    Pass over <kbd className="font-mono text-[11px] font-normal">→</kbd>
                  </Button>
                  {last && (
                    <button className="link" onClick={() => undo.mutate(last.messageId)}>
                      Undo <kbd className="font-mono text-[11px] font-normal">U</kbd>
                    </button>
                  )}
                </p>
              </>
            ) : (
              <p className="py-3 text-soft">
                {next.isFetching
                  ? 'Looking for the next ones…'
                  : 'No message of the last 90 days is left without a label.'}
              </p>
            )
          }
        </Loaded>
      )}
      <LearningCurve view={view} />
    </>
  );
}

/** Every category of the settings with its surety, none of these last, whether the model knows it yet or not. */
function allOf(view: SorterView, look: SorterLook) {
  const known = new Map(look.sureties.map((s) => [s.categoryId, s.surety]));
  return [...view.settings.categories.map((c) => c.id), null].map((categoryId) => ({
    categoryId,
    surety: known.get(categoryId) ?? 0,
  }));
}

function Look({ look }: { look: SorterLook }) {
  const [lit, setLit] = useState<number | null>(null);
  const { message } = look;
  const heaviest = Math.max(0, ...look.explanation.spoke.map((s) => s.weight));
  const marks: Mark[] = look.explanation.spoke
    .filter((s) => s.weight > heaviest * lightest)
    .flatMap((s, reason) => s.evidence.map((evidence) => ({ evidence, reason })));
  const light = { marks, lit, setLit };
  const stretches = message.body.stretches.filter((s) => s.kind === 'New');
  const shown = stretches.length > 0 ? stretches : message.body.stretches;
  return (
    <article aria-label="Message to label">
      <p className="mt-2 leading-snug font-semibold">
        <Marked text={message.subject} place="Subject" {...light} />
        {message.subject === '' && <span className="text-soft">(no subject)</span>}
      </p>
      <p className="mb-2 break-words text-[12.5px] text-soft">
        {message.from.address} · {when(message.arrivedAt)}
      </p>
      <div
        className="max-h-[236px] overflow-y-auto text-[14px] leading-[1.5] break-words whitespace-pre-wrap"
        tabIndex={0}
      >
        {shown.map((s) => (
          <Marked
            key={s.start}
            text={message.body.text}
            start={s.start}
            end={s.start + s.length}
            place="Body"
            {...light}
          />
        ))}
        {message.body.text.trim() === '' && <span className="text-soft">(no text)</span>}
      </div>
      {message.attachments.length > 0 && (
        <p className="mt-1 text-[12.5px] text-soft">
          {message.attachments.map((a) => a.name || '(no name)').join(', ')}
        </p>
      )}
    </article>
  );
}
