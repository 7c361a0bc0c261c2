import { useState } from 'react';
import { Link } from '@tanstack/react-router';
import { useMutation, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import { useMay } from '@/api/session';
import type { TryView } from '@/api/types';
import { Button } from '@/parts/Button';
import { SelectField } from '@/parts/Field';
import { Reasons } from '@/parts/Reasons';
import { SidePanel } from '@/parts/SidePanel';
import { Loaded } from '@/parts/States';
import { useWorkflows } from '@/parts/useWorkflows';
import { Deed } from '../catch-up/Messages';

/** What would a workflow do with this message? Nothing is done before somebody says so. */
export function TryWorkflow({
  messageId,
  open,
  onClose,
}: {
  messageId: number;
  open: boolean;
  onClose: () => void;
}) {
  const workflows = (useWorkflows().data ?? []).filter((w) => w.liveEdition !== null);
  const [workflow, setWorkflow] = useState('');
  const chosen = Number(workflow || (workflows[0]?.id ?? 0));
  const builder = useMay('builder');
  const [run, setRun] = useState<number | null>(null);
  const tried = useQuery({
    queryKey: ['mail', messageId, 'try', chosen],
    enabled: open && chosen !== 0,
    queryFn: () =>
      body(
        api.GET('/api/messages/{messageId}/try', {
          params: { path: { messageId }, query: { workflowId: chosen } },
        }),
      ) as Promise<TryView>,
  });
  const act = useMutation({
    mutationFn: () =>
      body(
        api.POST('/api/messages/{messageId}/do', {
          params: { path: { messageId }, query: { workflowId: chosen } },
        }),
      ),
    onSuccess: (id) => setRun(id),
  });
  return (
    <SidePanel title="What would happen?" open={open} onClose={onClose}>
      <SelectField
        label="If this workflow saw the message now"
        value={String(chosen)}
        onChange={(e) => {
          setWorkflow(e.target.value);
          setRun(null);
        }}
      >
        {workflows.map((w) => (
          <option key={w.id} value={w.id}>
            {w.name}
          </option>
        ))}
      </SelectField>
      <Loaded query={tried}>
        {(t) => (
          <>
            {t.leftBecause ? (
              <p className="mb-2">
                <b>It would be left alone:</b> {t.leftBecause.replace(/^left alone because /, '')}.
              </p>
            ) : (
              t.verdict && <Reasons verdict={t.verdict} lit={null} setLit={() => undefined} />
            )}
            {!t.leftBecause && (
              <ul className="my-3 border-t border-line pt-2">
                {t.deeds.map((d) => (
                  <Deed key={`${d.kind}${d.target}${d.says}`} deed={d} />
                ))}
                {t.deeds.length === 0 && <li className="text-soft">Nothing would be done.</li>}
              </ul>
            )}
            {act.error && (
              <p role="alert" className="font-semibold text-rust">
                {act.error.message}
              </p>
            )}
            {run !== null ? (
              <p role="status">
                It is being carried out.{' '}
                <Link to="/catch-up" search={{ run }} className="link">
                  See its accounts
                </Link>
              </p>
            ) : (
              builder &&
              !t.leftBecause && (
                <Button
                  kind="main"
                  disabled={act.isPending || t.deeds.every((d) => d.skipped !== null)}
                  onClick={() => act.mutate()}
                >
                  Do it now
                </Button>
              )
            )}
          </>
        )}
      </Loaded>
    </SidePanel>
  );
}
