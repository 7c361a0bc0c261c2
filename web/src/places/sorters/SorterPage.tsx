import { useState } from 'react';
import { Link, useNavigate, useParams } from '@tanstack/react-router';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Popover } from 'radix-ui';
import { format } from 'date-fns';
import { api } from '@/api/client';
import { useMay } from '@/api/session';
import type { SorterView } from '@/api/types';
import { Button } from '@/parts/Button';
import { notify } from '@/parts/Notices';
import { Loaded } from '@/parts/States';
import { Tag } from '@/parts/Tag';
import { Categories } from './Categories';
import { ExamplesPanel, type ExampleChoice } from './ExamplesPanel';
import { HowGood } from './HowGood';
import { LabelNext } from './LabelNext';
import { Numbers } from './Numbers';
import { Outside } from './Outside';
import { useSorter } from './useSorter';
import { examples } from './words';

/** One sorter: its categories, how good it is, and the message to label next. */
export function SorterPage() {
  const { id } = useParams({ from: '/workflows/sorters/$id' });
  const sorter = useSorter(Number(id));
  return <Loaded query={sorter}>{(view) => <Page key={id} view={view} />}</Loaded>;
}

function Page({ view }: { view: SorterView }) {
  const [open, setOpen] = useState<ExampleChoice | null>(null);
  return (
    <div className="flex h-full flex-col">
      <Head view={view} />
      <div className="grid min-h-0 flex-1 grid-cols-[clamp(272px,24.8vw,360px)_minmax(0,1fr)_clamp(340px,29vw,440px)]">
        <div
          className="min-h-0 overflow-y-auto border-r border-line px-4 pt-3 pb-10"
          tabIndex={0}
          role="region"
          aria-label="Categories"
        >
          <Categories view={view} onOpen={setOpen} />
        </div>
        <div
          className="min-h-0 overflow-y-auto border-r border-line px-5 pt-3 pb-10"
          tabIndex={0}
          role="region"
          aria-label="How good it is"
        >
          <HowGood view={view} onOpen={setOpen} />
        </div>
        <div
          className="min-h-0 overflow-y-auto bg-sheet px-4 pt-3 pb-10"
          tabIndex={0}
          role="region"
          aria-label="Label next"
        >
          <LabelNext view={view} />
        </div>
      </div>
      <ExamplesPanel view={view} choice={open} onClose={() => setOpen(null)} />
    </div>
  );
}

function Head({ view }: { view: SorterView }) {
  const may = useMay('builder');
  const client = useQueryClient();
  const navigate = useNavigate();
  const [numbers, setNumbers] = useState(false);
  const [outside, setOutside] = useState(false);
  const inUse = view.numbers.find((n) => n.state === 'InUse');
  const inHand = view.state === 'InHand' ? view.numbers.find((n) => n.number === view.number) : undefined;
  const labels = Object.values(view.examples).reduce((sum, n) => sum + n, 0);
  const busy = view.due || view.training !== null;
  const path = { params: { path: { id: view.id } } };
  const use = useMutation({
    mutationFn: (number: number) =>
      api.POST('/api/sorters/{id}/use', { params: { ...path.params, query: { number } } }),
    onSuccess: (_, number) => {
      void client.invalidateQueries({ queryKey: ['sorters'] });
      const before = inUse?.number;
      notify({
        text: `Number ${number} is in use.`,
        undo: before === undefined ? undefined : () => use.mutate(before),
      });
    },
  });
  const remove = useMutation({
    mutationFn: () => api.DELETE('/api/sorters/{id}', path),
    onSuccess: () => {
      notify({ text: `The sorter ${view.name} was removed.` });
      void navigate({ to: '/workflows' });
    },
  });
  return (
    <header className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-4 py-2">
      <h1 className="title min-w-0 truncate">{view.name}</h1>
      <span className="text-soft">
        sorter of{' '}
        {view.usedBy.length === 0
          ? 'no workflow yet'
          : `${view.usedBy.length} ${view.usedBy.length === 1 ? 'workflow' : 'workflows'}`}
      </span>
      {inUse ? (
        <Tag tone="kelp">
          In use since {format(new Date(inUse.usedSince!), 'd MMM')} · number {inUse.number}
        </Tag>
      ) : (
        <Tag tone="soft">Never in use</Tag>
      )}
      {view.asksOutside && <Tag tone="plum">the outside sorter decides</Tag>}
      {inHand && (
        <Tag tone="amber">
          Number {inHand.number} in hand
          {!busy && inHand.trainedAt && ` · ${examples(inHand.trainedOn)}`}
        </Tag>
      )}
      <span role="status" className="text-soft">
        {busy
          ? view.training
            ? `training, ${view.training.done} of ${view.training.of}`
            : 'waits to be trained'
          : (inHand?.problem ?? '')}
      </span>
      <span className="ml-auto flex items-center gap-1">
        <Button kind="quiet" className="!px-2" onClick={() => setOutside(true)}>
          Outside sorter
        </Button>
        <Button kind="quiet" className="!px-2" onClick={() => setNumbers(true)}>
          Numbers
        </Button>
        {may && view.usedBy.length === 0 && view.numbers.length === 1 && (
          <Remove labels={labels} onRemove={() => remove.mutate()} />
        )}
        {inHand && <RehearseWith view={view} disabled={busy || !inHand.hasModel} />}
        {may && inHand && (
          <Button
            kind="main"
            className="ml-1"
            disabled={busy || !inHand.hasModel || use.isPending}
            onClick={() => use.mutate(inHand.number)}
          >
            Use number {inHand.number}
          </Button>
        )}
      </span>
      <Numbers view={view} open={numbers} onClose={() => setNumbers(false)} onUse={use.mutate} />
      <Outside view={view} open={outside} onClose={() => setOutside(false)} />
    </header>
  );
}

/** Removing a sorter; the labels people gave go with it, so that it asks back where there are any. */
function Remove({ labels, onRemove }: { labels: number; onRemove: () => void }) {
  const [asking, setAsking] = useState(false);
  return asking ? (
    <>
      <Button kind="quiet" className="!px-2 text-rust" autoFocus onClick={onRemove}>
        Remove with {labels.toLocaleString('en')} {labels === 1 ? 'label' : 'labels'}
      </Button>
      <Button kind="quiet" className="!px-2" onClick={() => setAsking(false)}>
        Keep
      </Button>
    </>
  ) : (
    <Button kind="quiet" className="!px-2" onClick={labels > 0 ? () => setAsking(true) : onRemove}>
      Remove
    </Button>
  );
}

/** Rehearsing the number in hand: on the sheet of a workflow that asks the sorter. */
function RehearseWith({ view, disabled }: { view: SorterView; disabled: boolean }) {
  const label = `Rehearse number ${view.number}`;
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button disabled={disabled}>{label}</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={4}
          className="z-40 max-w-[320px] border border-ink bg-sheet p-3"
        >
          {view.usedBy.length === 0 ? (
            <p>No workflow asks this sorter yet. Choose it on a sheet under “sorts into”.</p>
          ) : (
            <>
              <p className="caps mb-1">On past mail of</p>
              {view.usedBy.map((w) => (
                <Link
                  key={w.id}
                  to="/workflows/$id"
                  params={{ id: String(w.id) }}
                  search={{ sorter: 'in-hand' }}
                  className="link block py-0.5"
                >
                  {w.name}
                </Link>
              ))}
            </>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
