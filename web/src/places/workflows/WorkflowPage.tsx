import { useEffect, useMemo, useState } from 'react';
import { Link, useParams, useSearch } from '@tanstack/react-router';
import { useMutation, useQuery } from '@tanstack/react-query';
import { format } from 'date-fns';
import { api, body } from '@/api/client';
import { useMay } from '@/api/session';
import type { WorkflowView } from '@/api/types';
import { Button } from '@/parts/Button';
import { notify } from '@/parts/Notices';
import { Loaded } from '@/parts/States';
import { Tag } from '@/parts/Tag';
import { AsSieve } from './AsSieve';
import { LimitsBand, ReadsOut, SortsInto, TakesIn, type BandProps } from './Bands';
import { Does } from './Does';
import { AskAboutExamples, failing, useExamples } from './Examples';
import { NearContext } from './near';
import { PastEditions } from './PastEditions';
import { RehearsalPanel, type Selection } from './RehearsalPanel';
import { useSheet, type Span } from './useSheet';

/** One workflow: its sheet on the left, its rehearsal on the right. */
export function WorkflowPage() {
  const { id } = useParams({ from: '/workflows/$id' });
  const workflow = useQuery({
    queryKey: ['workflow', Number(id)],
    queryFn: () =>
      body(api.GET('/api/workflows/{id}', { params: { path: { id: Number(id) } } })) as Promise<WorkflowView>,
    gcTime: 0,
    staleTime: Infinity,
  });
  return <Loaded query={workflow}>{(view) => <SheetPage key={id} first={view} />}</Loaded>;
}

function SheetPage({ first }: { first: WorkflowView }) {
  const may = useMay('builder');
  const [span, setSpan] = useState<Span>(30);
  const sorterInHand = useSearch({ from: '/workflows/$id' }).sorter === 'in-hand';
  const editing = useSheet(first, span, sorterInHand);
  const { view, sheet, rehearsal } = editing;
  const [chosen, setChosen] = useState<Selection | null>(null);
  const [past, setPast] = useState(false);
  const [near, setNear] = useState<string | null>(null);
  const selection =
    chosen ??
    (rehearsal?.summary.changes
      ? { view: 'Changes', title: 'Changes' }
      : { view: 'TakenIn', title: 'Taken in' });
  const problems = useMemo(() => new Map(view.problems.map((p) => [p.at, p.text])), [view.problems]);
  useUndoKeys(editing.undo, editing.redo);
  const band: BandProps = {
    sheet,
    onChange: editing.change,
    rehearsal,
    onOpen: (v, key, title) => setChosen({ view: v, key, title }),
    problems,
    findings: view.findings,
    readOnly: !may,
  };
  return (
    <div className="flex h-full flex-col">
      <Head editing={editing} may={may} onPast={() => setPast(true)} />
      {sorterInHand && (
        <p className="flex items-baseline gap-4 border-b border-line bg-amber-wash px-5 py-1.5">
          The rehearsal asks the sorter as its number in hand is, and compares with the number in use.
          <Link to="/workflows/$id" params={{ id: String(view.id) }} className="link">
            Rehearse with the number in use
          </Link>
        </p>
      )}
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1.52fr)_minmax(0,1fr)]">
        <div
          className="min-h-0 overflow-y-auto border-r border-line px-5 pb-10"
          tabIndex={0}
          role="region"
          aria-label="Sheet"
        >
          <NearContext.Provider value={near}>
            <TakesIn {...band} />
          </NearContext.Provider>
          <SortsInto {...band} />
          <ReadsOut {...band} />
          <Does {...band} />
          <LimitsBand {...band} />
        </div>
        <RehearsalPanel
          workflowId={view.id}
          onSheet={editing.change}
          onNear={setNear}
          readOnly={!may}
          rehearsal={rehearsal}
          rehearsing={editing.rehearsing}
          span={span}
          onSpan={setSpan}
          selection={selection}
          onSelect={setChosen}
        />
      </div>
      <PastEditions
        view={view}
        open={past}
        onClose={() => setPast(false)}
        onBroughtBack={editing.replace}
        may={may}
      />
    </div>
  );
}

function useUndoKeys(undo: () => void, redo: () => void) {
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.key.toLowerCase() !== 'z') return;
      e.preventDefault();
      if (e.shiftKey) redo();
      else undo();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [undo, redo]);
}

function Head({
  editing,
  may,
  onPast,
}: {
  editing: ReturnType<typeof useSheet>;
  may: boolean;
  onPast: () => void;
}) {
  const { view, replace } = editing;
  const live = view.editions.find((e) => e.state === 'Live');
  const inHand = view.state === 'InHand';
  const path = { params: { path: { id: view.id } } };
  const [asking, setAsking] = useState(false);
  const [sieve, setSieve] = useState(false);
  const broken = failing(useExamples(view.id, editing.rehearsal?.id).data);
  const goLive = useMutation({
    mutationFn: async (despiteExamples: boolean) => {
      await editing.flush();
      return (await body(
        api.POST('/api/workflows/{id}/live', { params: { ...path.params, query: { despiteExamples } } }),
      )) as WorkflowView;
    },
    onSuccess: (next) => {
      setAsking(false);
      replace(next);
      notify({ text: `Edition ${next.number} is live.` });
    },
  });
  const discard = useMutation({
    mutationFn: async () => {
      const { sheet } = view;
      const next = (await body(api.POST('/api/workflows/{id}/discard', path))) as WorkflowView;
      return { next, sheet };
    },
    onSuccess: ({ next, sheet }) => {
      replace(next);
      notify({ text: 'The edition in hand was dropped.', undo: () => editing.change(sheet) });
    },
  });
  return (
    <header className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-5 py-2">
      <h1 className="title min-w-0 truncate">{view.name}</h1>
      {view.paused && <Tag tone="soft">paused</Tag>}
      {live ? (
        <Tag tone="kelp">
          Live since {format(new Date(live.liveSince!), 'd MMM')} · edition {live.number}
        </Tag>
      ) : (
        <Tag tone="soft">Never live</Tag>
      )}
      {inHand && (
        <Tag tone="amber">
          Edition {view.number} in hand
          {live &&
            ` · ${view.changesToLive.length} ${view.changesToLive.length === 1 ? 'change' : 'changes'}`}
        </Tag>
      )}
      <span role="status" className="text-soft">
        {editing.state === 'saving'
          ? 'saving…'
          : editing.state === 'failed'
            ? 'not saved'
            : inHand && editing.canUndo
              ? 'saved'
              : ''}
      </span>
      <span className="ml-auto flex items-center gap-2">
        {may && (
          <>
            <Button kind="quiet" className="!px-1" disabled={!editing.canUndo} onClick={editing.undo}>
              Undo
            </Button>
            <Button kind="quiet" className="!px-1" disabled={!editing.canRedo} onClick={editing.redo}>
              Redo
            </Button>
          </>
        )}
        <a
          className="px-1 py-1 font-semibold text-sea no-underline hover:underline"
          href={`/api/workflows/${view.id}/file`}
          download
        >
          As a file
        </a>
        <Button kind="quiet" className="!px-1" onClick={() => setSieve(true)}>
          As Sieve
        </Button>
        <Button kind="quiet" onClick={onPast}>
          Editions
        </Button>
        {may && inHand && live && (
          <Button onClick={() => discard.mutate()} disabled={discard.isPending}>
            Drop edition {view.number}
          </Button>
        )}
        {may && inHand && (
          <Button
            kind="main"
            onClick={() => (broken.length > 0 ? setAsking(true) : goLive.mutate(false))}
            disabled={goLive.isPending || view.problems.length > 0}
            title={view.problems[0]?.text}
          >
            Put edition {view.number} live
          </Button>
        )}
      </span>
      <AsSieve workflowId={view.id} open={sieve} onClose={() => setSieve(false)} />
      <AskAboutExamples
        examples={broken}
        open={asking}
        onClose={() => setAsking(false)}
        onGoLive={() => goLive.mutate(true)}
      />
    </header>
  );
}
