import { useState } from 'react';
import { useMutation, useQuery } from '@tanstack/react-query';
import { api, body, readRefusal, tokenHeader } from '@/api/client';
import type { UploadProgress } from '@/api/types';
import { Button } from '@/parts/Button';
import { SelectField } from '@/parts/Field';
import { SidePanel } from '@/parts/SidePanel';
import { useSetup } from '@/parts/useSetup';

/** Bringing in .eml and mbox files, with progress and what became of each message. */
export function Upload({ open, onClose }: { open: boolean; onClose: () => void }) {
  const mailboxes = useSetup().data?.mailboxes ?? [];
  const [mailbox, setMailbox] = useState('');
  const [begun, setBegun] = useState<UploadProgress[]>([]);
  const chosen = mailbox || String(mailboxes[0]?.id ?? '');
  const begin = useMutation({
    mutationFn: async (files: File[]) => {
      for (const file of files) {
        const form = new FormData();
        form.append('file', file);
        const answer = await fetch(`/api/uploads?mailboxId=${chosen}`, {
          method: 'POST',
          body: form,
          headers: tokenHeader(),
        });
        if (!answer.ok) throw await readRefusal(answer);
        const progress = (await answer.json()) as UploadProgress;
        setBegun((b) => [progress, ...b]);
      }
    },
  });
  return (
    <SidePanel title="Bring in mail files" open={open} onClose={onClose} wide>
      <p className="mb-3 max-w-[62ch] text-soft">
        Files of one message (.eml) or of many (mbox, RFC 4155). Each message is stored unchanged and planned
        like mail that has just arrived. The same content is taken into a mailbox once.
      </p>
      <SelectField label="Into the mailbox" value={chosen} onChange={(e) => setMailbox(e.target.value)}>
        {mailboxes.map((m) => (
          <option key={m.id} value={m.id}>
            {m.name}
          </option>
        ))}
      </SelectField>
      <label className="caps mb-1 block" htmlFor="files">
        Files
      </label>
      <input
        id="files"
        type="file"
        multiple
        disabled={begin.isPending || chosen === ''}
        className="boxed mb-4 w-full py-1.5"
        onChange={(e) => {
          const files = [...(e.target.files ?? [])];
          e.target.value = '';
          if (files.length > 0) begin.mutate(files);
        }}
      />
      {begin.isPending && <p role="status">Sending the files…</p>}
      {begun.map((b) => (
        <Progress key={b.id} first={b} />
      ))}
    </SidePanel>
  );
}

function Progress({ first }: { first: UploadProgress }) {
  const progress = useQuery({
    queryKey: ['upload', first.id],
    queryFn: () => body(api.GET('/api/uploads/{id}', { params: { path: { id: first.id } } })),
    initialData: first,
    refetchInterval: (q) => (q.state.data?.finished ? false : 400),
  });
  const stop = useMutation({
    mutationFn: () => api.POST('/api/uploads/{id}/stop', { params: { path: { id: first.id } } }),
  });
  const p = progress.data;
  const refused = p.lookedAt - p.taken - p.duplicates;
  return (
    <section className="border-t border-line py-2" aria-label={p.name}>
      <p className="flex items-baseline gap-3">
        <span className="min-w-0 flex-1 font-semibold break-all">{p.name}</span>
        {!p.finished && (
          <Button kind="quiet" className="!px-0" onClick={() => stop.mutate()}>
            Stop
          </Button>
        )}
      </p>
      <p role="status">
        {p.finished ? '' : 'So far '}
        {p.taken} taken, {p.duplicates} {p.duplicates === 1 ? 'duplicate' : 'duplicates'}, {refused} refused
      </p>
      {p.problem && <p className="font-semibold text-rust">{p.problem} What was taken before stays.</p>}
      {p.refused.length > 0 && (
        <ul className="mt-1 max-h-[180px] overflow-y-auto border-l-2 border-amber pl-3">
          {p.refused.map((r, i) => (
            <li key={i}>
              {r.number ? `Message ${r.number}: ` : ''}
              {r.why}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
