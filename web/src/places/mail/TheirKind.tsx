import { useState } from 'react';
import { useNavigate } from '@tanstack/react-router';
import { useMutation, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { KindView, WorkflowView } from '@/api/types';
import { Button } from '@/parts/Button';
import { SelectField } from '@/parts/Field';
import { MailLines } from '@/parts/MailLines';
import { notify } from '@/parts/Notices';
import { SidePanel } from '@/parts/SidePanel';
import { Loaded } from '@/parts/States';
import { useWorkflows } from '@/parts/useWorkflows';
import { newId } from '../workflows/conditions';

const percent = (share: number) => `${Math.round(share * 100)} %`;

/** What sets one or a few messages apart from the rest of the mail, as conditions with their figures. */
export function TheirKind({
  messageIds,
  open,
  onClose,
}: {
  messageIds: number[];
  open: boolean;
  onClose: () => void;
}) {
  const [more, setMore] = useState<number[]>([]);
  const [shown, setShown] = useState<number | null>(null);
  const chosen = [...messageIds, ...more];
  const kinds = useQuery({
    queryKey: ['kind', ...chosen],
    enabled: open && chosen.length > 0,
    queryFn: () =>
      body(api.POST('/api/workflows/kind', { body: { messageIds: chosen, days: null } })) as Promise<
        KindView[]
      >,
    placeholderData: (last) => last,
  });
  return (
    <SidePanel title="Find their kind" open={open} onClose={onClose} wide>
      <p className="mb-3 max-w-[70ch] text-soft">
        {chosen.length === 1
          ? 'What sets this message apart from all past mail.'
          : `What sets these ${chosen.length} messages apart from all past mail.`}{' '}
        Recall is the share of them a condition finds; precision the share of what it finds that is among
        them. Messages of the same kind can be added, and the figures follow.
      </p>
      <Loaded query={kinds}>
        {(list) => (
          <ul className="mb-4 border-t border-ink">
            {list.map((k, i) => (
              <li key={k.text} className="border-b border-faint py-1.5">
                <span className="flex items-baseline gap-3">
                  <span className="min-w-0 flex-1 font-semibold break-words">{k.text}</span>
                  <span className="w-[92px] shrink-0 text-right">recall {percent(k.recall)}</span>
                  <span className="w-[112px] shrink-0 text-right">precision {percent(k.precision)}</span>
                </span>
                <span className="flex flex-wrap items-baseline gap-x-4 text-[13px]">
                  <button
                    className="press text-soft hover:underline"
                    aria-expanded={shown === i}
                    onClick={() => setShown(shown === i ? null : i)}
                  >
                    finds {k.matched.toLocaleString('en')},{' '}
                    {k.others.length === 0
                      ? 'no others'
                      : `${(k.matched - k.chosen).toLocaleString('en')} others`}
                  </button>
                  {k.others.length > 0 && (
                    <button
                      className="link"
                      onClick={() => setMore([...more, ...k.others.map((m) => m.id)].slice(0, 190))}
                    >
                      They are the same kind
                    </button>
                  )}
                  <Use kind={k} onDone={onClose} />
                </span>
                {shown === i && <MailLines messages={k.others} total={k.matched - k.chosen} />}
              </li>
            ))}
          </ul>
        )}
      </Loaded>
    </SidePanel>
  );
}

/** Makes the conditions part of a workflow: one that is begun with them, or one that is there. */
function Use({ kind, onDone }: { kind: KindView; onDone: () => void }) {
  const navigate = useNavigate();
  const workflows = useWorkflows().data ?? [];
  const [choosing, setChoosing] = useState(false);
  const [into, setInto] = useState('');
  const use = useMutation({
    mutationFn: async () => {
      const id =
        into === ''
          ? (await body(api.POST('/api/workflows', { body: { name: kind.text.slice(0, 100) } }))).id
          : Number(into);
      const path = { params: { path: { id } } };
      const view = (await body(api.GET('/api/workflows/{id}', path))) as WorkflowView;
      const conditions = kind.set.all.map((c) => ({ ...c, id: newId('c') }));
      const takesIn =
        into === ''
          ? { all: conditions, any: [], none: [] }
          : {
              ...view.sheet.takesIn,
              any: [
                ...view.sheet.takesIn.any,
                conditions.length === 1
                  ? conditions[0]!
                  : {
                      ...conditions[0]!,
                      id: newId('c'),
                      part: 'Group' as const,
                      test: 'Present' as const,
                      values: [],
                      set: { all: conditions, any: [], none: [] },
                    },
              ],
            };
      await body(
        api.PUT('/api/workflows/{id}/sheet', {
          ...path,
          body: { sheet: { ...view.sheet, takesIn }, number: view.number, revision: view.revision },
        }),
      );
      return id;
    },
    onSuccess: (id) => {
      notify({ text: 'The conditions are in the edition in hand.' });
      onDone();
      void navigate({ to: '/workflows/$id', params: { id: String(id) } });
    },
  });
  if (!choosing)
    return (
      <button className="link" onClick={() => setChoosing(true)}>
        Use it
      </button>
    );
  return (
    <span className="mt-1 flex w-full items-end gap-3">
      <span className="w-[300px]">
        <SelectField label="Take them in by" value={into} onChange={(e) => setInto(e.target.value)}>
          <option value="">a workflow begun with this</option>
          {workflows.map((w) => (
            <option key={w.id} value={w.id}>
              {w.name}, as one more alternative
            </option>
          ))}
        </SelectField>
      </span>
      <Button className="mb-3" disabled={use.isPending} onClick={() => use.mutate()}>
        Go on
      </Button>
    </span>
  );
}
