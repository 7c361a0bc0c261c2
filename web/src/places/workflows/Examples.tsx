import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Dialog } from 'radix-ui';
import { api, body } from '@/api/client';
import type { ExampleView } from '@/api/types';
import { Button } from '@/parts/Button';
import { notify } from '@/parts/Notices';
import { Loaded } from '@/parts/States';
import { Tag } from '@/parts/Tag';
import { when } from '@/parts/time';
import { expectationWords } from './Judge';
import { Differences } from './RehearsalPanel';

/** The kept examples of a workflow, held to the sheet as it stands; read again with every rehearsal. */
export function useExamples(workflowId: number, rehearsal: string | undefined) {
  return useQuery({
    queryKey: ['examples', workflowId, rehearsal],
    enabled: rehearsal !== undefined,
    queryFn: () =>
      body(api.GET('/api/workflows/{id}/examples', { params: { path: { id: workflowId } } })) as Promise<
        ExampleView[]
      >,
    placeholderData: (last) => last,
  });
}

export const failing = (examples: ExampleView[] | undefined) =>
  examples?.filter((e) => e.differences.length > 0) ?? [];

export function Examples({
  workflowId,
  rehearsal,
  readOnly,
}: {
  workflowId: number;
  rehearsal: string | undefined;
  readOnly: boolean;
}) {
  const client = useQueryClient();
  const examples = useExamples(workflowId, rehearsal);
  const forget = async (e: ExampleView) => {
    await api.DELETE('/api/workflows/{id}/examples/{messageId}', {
      params: { path: { id: workflowId, messageId: e.message.id } },
    });
    await client.invalidateQueries({ queryKey: ['examples', workflowId] });
    notify({ text: 'The example was let go.' });
  };
  return (
    <Loaded query={examples}>
      {(list) =>
        list.length === 0 ? (
          <p className="py-3 text-soft">
            No message is kept yet. Open one and say whether what happens to it is as meant: from then on
            every edition is held to it.
          </p>
        ) : (
          <ul>
            {list.map((e) => (
              <li key={e.message.id} className="flex gap-3 border-b border-faint py-1.5">
                <span className="min-w-0 flex-1">
                  <span className="block truncate font-semibold">{e.message.subject || '(no subject)'}</span>
                  <span className="block truncate text-soft">
                    {e.message.senderAddress} · {when(e.message.arrivedAt)} · kept by {e.keptBy}
                  </span>
                </span>
                <span className="w-[44%] shrink-0 text-[12.5px] leading-snug">
                  {e.differences.length === 0 ? (
                    <>
                      <Tag tone="kelp">holds</Tag> {expectationWords(e.expected)}
                    </>
                  ) : (
                    <>
                      <Tag tone="rust">fails</Tag>
                      <Differences list={e.differences} />
                    </>
                  )}
                  {!readOnly && (
                    <button className="link mt-0.5 block" onClick={() => void forget(e)}>
                      Let go
                    </button>
                  )}
                </span>
              </li>
            ))}
          </ul>
        )
      }
    </Loaded>
  );
}

/** Asks before an edition goes live under which kept examples fail. */
export function AskAboutExamples({
  examples,
  open,
  onClose,
  onGoLive,
}: {
  examples: ExampleView[];
  open: boolean;
  onClose: () => void;
  onGoLive: () => void;
}) {
  return (
    <Dialog.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-[#13222c66]" />
        <Dialog.Content className="fixed top-[12vh] left-1/2 z-50 max-h-[76vh] w-[620px] max-w-[94vw] -translate-x-1/2 overflow-y-auto border border-ink bg-paper p-6">
          <Dialog.Title className="heading">
            {examples.length === 1 ? 'A kept example fails' : `${examples.length} kept examples fail`}
          </Dialog.Title>
          <Dialog.Description className="mb-3 text-soft">
            This edition does something else with messages of which somebody said what should happen.
          </Dialog.Description>
          <ul className="mb-4">
            {examples.map((e) => (
              <li key={e.message.id} className="border-b border-faint py-1.5">
                <span className="font-semibold">{e.message.subject || '(no subject)'}</span>{' '}
                <span className="text-soft">{e.message.senderAddress}</span>
                <Differences list={e.differences} />
              </li>
            ))}
          </ul>
          <div className="flex gap-3">
            <Button onClick={onClose}>Go on changing it</Button>
            <Button kind="quiet" onClick={onGoLive}>
              Put it live all the same
            </Button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
