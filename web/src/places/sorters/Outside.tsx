import { useState } from 'react';
import { Link } from '@tanstack/react-router';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import { useMay } from '@/api/session';
import type { OutsideComparison, SorterView } from '@/api/types';
import { Button } from '@/parts/Button';
import { SidePanel } from '@/parts/SidePanel';
import { Loaded, Problem } from '@/parts/States';
import { percent } from '@/parts/percent';
import { nameOf } from './words';

const compared = 20;

/** The outside sorter beside this one: what would leave, how it compares, and whether it decides. */
export function Outside({ view, open, onClose }: { view: SorterView; open: boolean; onClose: () => void }) {
  return (
    <SidePanel title="Outside sorter" open={open} onClose={onClose} wide>
      {open && <Content view={view} />}
    </SidePanel>
  );
}

function Content({ view }: { view: SorterView }) {
  const keeper = useMay('keeper');
  const builder = useMay('builder');
  const client = useQueryClient();
  const setup = useQuery({
    queryKey: ['setup', 'outside-sorter'],
    queryFn: () => body(api.GET('/api/setup/outside-sorter')),
  });
  const use = useMutation({
    mutationFn: (on: boolean) =>
      api.PUT('/api/sorters/{id}/asks-outside', { params: { path: { id: view.id }, query: { on } } }),
    onSuccess: () => void client.invalidateQueries({ queryKey: ['sorters'] }),
  });
  const compare = useMutation({
    mutationFn: () =>
      body(
        api.POST('/api/sorters/{id}/outside-comparison', {
          params: { path: { id: view.id }, query: { count: compared } },
        }),
      ) as Promise<OutsideComparison>,
  });
  return (
    <Loaded query={setup}>
      {(s) => (
        <>
          <p className="mb-3 max-w-[66ch]">
            {s.on
              ? `The service at ${s.address} can be asked. Mail leaves this machine when it is.`
              : 'No outside service is switched on, so nothing leaves this machine. A keeper can set one up.'}{' '}
            <Link to="/setup" search={{ part: 'outside-sorter' }} className="link">
              Setup
            </Link>
          </p>
          <WouldLeave view={view} />
          <h3 className="heading mt-5 mb-1 !text-[16px]">Both on the same mail</h3>
          <p className="mb-2 max-w-[66ch] text-soft">
            Asks the outside sorter about {compared} examples and holds both against what people said. Its
            answers are numbers of categories; anything else it says counts as no answer.
          </p>
          <p>
            <Button disabled={!s.on || !builder || compare.isPending} onClick={() => compare.mutate()}>
              {compare.isPending ? 'Asking…' : `Send ${compared} examples`}
            </Button>
          </p>
          {compare.error && <Problem error={compare.error} />}
          {compare.data && <Result view={view} data={compare.data} />}
          <h3 className="heading mt-5 mb-1 !text-[16px]">Who decides</h3>
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={view.asksOutside}
              disabled={!keeper || use.isPending || (!s.on && !view.asksOutside)}
              onChange={(e) => use.mutate(e.target.checked)}
            />
            the outside sorter decides for {view.name}; without an answer in time a message is unsure
          </label>
          {use.error && <Problem error={use.error} />}
        </>
      )}
    </Loaded>
  );
}

/** Exactly what would leave about one message. */
function WouldLeave({ view }: { view: SorterView }) {
  const [number, setNumber] = useState(0);
  const some = useQuery({
    queryKey: ['sorters', view.id, 'examples', 'first'],
    queryFn: () =>
      body(api.GET('/api/sorters/{id}/examples', { params: { path: { id: view.id }, query: { from: 0 } } })),
  });
  const messageId = some.data?.examples[number]?.messageId;
  const shown = useQuery({
    queryKey: ['sorters', view.id, 'outside', messageId],
    enabled: messageId !== undefined,
    queryFn: () =>
      body(
        api.GET('/api/sorters/{id}/outside/{messageId}', {
          params: { path: { id: view.id, messageId: messageId! } },
        }),
      ),
  });
  return (
    <section aria-label="What would leave">
      <h3 className="heading mb-1 !text-[16px]">What would leave</h3>
      {shown.data ? (
        <>
          <pre
            className="max-h-[150px] overflow-y-auto border border-line bg-sheet p-2 font-mono text-[12px] whitespace-pre-wrap"
            tabIndex={0}
          >
            {shown.data.question.task}
          </pre>
          <pre
            className="max-h-[190px] overflow-y-auto border border-t-0 border-line bg-sheet p-2 font-mono text-[12px] whitespace-pre-wrap"
            tabIndex={0}
          >
            {shown.data.question.text}
          </pre>
          <button
            className="link"
            onClick={() => setNumber((number + 1) % Math.max(1, some.data?.examples.length ?? 1))}
          >
            Another example
          </button>
        </>
      ) : (
        <p className="text-soft">Label a message to see what would leave about it.</p>
      )}
    </section>
  );
}

function Result({ view, data }: { view: SorterView; data: OutsideComparison }) {
  const share = (n: number) =>
    data.asked === 0 ? '—' : `${n} of ${data.asked} (${percent(n / data.asked)})`;
  return (
    <div className="mt-2">
      {data.problem && <p className="text-rust">{data.problem}</p>}
      <p>
        Right: this sorter {share(data.ownRight)}, the outside one {share(data.outsideRight)}; it answered{' '}
        {data.answered}.
      </p>
      {data.differences.length > 0 && (
        <table className="table mt-1">
          <thead>
            <tr>
              <th>Message</th>
              <th>Is</th>
              <th>This sorter</th>
              <th>Outside</th>
            </tr>
          </thead>
          <tbody>
            {data.differences.map((d) => (
              <tr key={d.messageId}>
                <td>
                  <Link to="/mail" search={{ id: d.messageId }} className="link">
                    {d.subject || '(no subject)'}
                  </Link>
                </td>
                <td>{nameOf(view.settings, d.is)}</td>
                <td>{nameOf(view.settings, d.own)}</td>
                <td>{d.problem ?? nameOf(view.settings, d.outside)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
