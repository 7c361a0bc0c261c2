import { useState } from 'react';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { UploadView } from '@/api/types';
import { Button } from '@/parts/Button';
import { SelectField } from '@/parts/Field';
import { SidePanel } from '@/parts/SidePanel';
import { bytes } from '@/parts/time';
import { useSetup } from '@/parts/useSetup';
import { sendFile } from './sendFile';

/** Bringing in .eml and mbox files, with progress and what became of each message. */
export function Upload({ open, onClose }: { open: boolean; onClose: () => void }) {
  const mailboxes = useSetup().data?.mailboxes ?? [];
  const client = useQueryClient();
  const [mailbox, setMailbox] = useState('');
  const [carryOut, setCarryOut] = useState(false);
  const [sending, setSending] = useState<{ name: string; sent: number; size: number } | null>(null);
  const chosen = mailbox || String(mailboxes[0]?.id ?? '');
  const uploads = useQuery({
    queryKey: ['uploads'],
    enabled: open,
    queryFn: () => body(api.GET('/api/uploads')),
    refetchInterval: (q) =>
      q.state.data?.some((u) => u.state === 'TakingIn' || u.state === 'Receiving') ? 500 : false,
  });
  const begin = useMutation({
    mutationFn: async (files: File[]) => {
      for (const file of files) {
        setSending({ name: file.name, sent: 0, size: file.size });
        await sendFile(file, { mailboxId: chosen, carryOut: String(carryOut) }, (sent) =>
          setSending({ name: file.name, sent, size: file.size }),
        );
        await client.invalidateQueries({ queryKey: ['uploads'] });
      }
    },
    onSettled: () => setSending(null),
  });
  return (
    <SidePanel title="Bring in mail files" open={open} onClose={onClose} wide>
      <p className="mb-3 max-w-[62ch] text-soft">
        Files of one message (.eml) or of many (mbox, RFC 4155). Each message is stored unchanged; the same
        content is taken into a mailbox once. A file that was cut off goes on where it was when you choose it
        again.
      </p>
      <div className="grid grid-cols-2 gap-x-4">
        <SelectField label="Into the mailbox" value={chosen} onChange={(e) => setMailbox(e.target.value)}>
          {mailboxes.map((m) => (
            <option key={m.id} value={m.id}>
              {m.name}
            </option>
          ))}
        </SelectField>
        <SelectField
          label="Workflows"
          value={String(carryOut)}
          onChange={(e) => setCarryOut(e.target.value === 'true')}
        >
          <option value="false">leave it alone: it is old mail</option>
          <option value="true">act on it like mail just arrived</option>
        </SelectField>
      </div>
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
      {sending && (
        <p role="status" className="mb-3">
          Sending {sending.name}: {bytes(sending.sent)} of {bytes(sending.size)}
        </p>
      )}
      {begin.error && (
        <p role="alert" className="mb-3 font-semibold text-rust">
          The file could not be sent: {begin.error.message}. What has come of it is kept; choose it again to
          go on.
        </p>
      )}
      {uploads.data?.map((u) => (
        <Progress key={u.id} upload={u} />
      ))}
    </SidePanel>
  );
}

const words: Record<UploadView['state'], string> = {
  Receiving: 'Waits for the rest of the file. ',
  TakingIn: 'So far ',
  Stopped: 'Stopped. ',
  Finished: '',
  Failed: '',
};

function Progress({ upload: u }: { upload: UploadView }) {
  const client = useQueryClient();
  const act = useMutation({
    mutationFn: (what: 'stop' | 'resume') =>
      what === 'stop'
        ? api.POST('/api/uploads/{id}/stop', { params: { path: { id: u.id } } })
        : api.POST('/api/uploads/{id}/resume', { params: { path: { id: u.id } } }),
    onSettled: () => client.invalidateQueries({ queryKey: ['uploads'] }),
  });
  const refused = u.lookedAt - u.taken - u.duplicates;
  return (
    <section className="border-t border-line py-2" aria-label={u.name}>
      <p className="flex items-baseline gap-3">
        <span className="min-w-0 flex-1 font-semibold break-all">
          {u.name} <span className="font-normal text-soft">into {u.mailbox}</span>
        </span>
        {u.state === 'TakingIn' && (
          <Button kind="quiet" className="!px-0" onClick={() => act.mutate('stop')}>
            Stop
          </Button>
        )}
        {u.state === 'Stopped' && (
          <Button kind="quiet" className="!px-0" onClick={() => act.mutate('resume')}>
            Go on
          </Button>
        )}
      </p>
      <p role="status">
        {words[u.state]}
        {u.taken} taken, {u.duplicates} {u.duplicates === 1 ? 'duplicate' : 'duplicates'}, {refused} refused
      </p>
      {u.problem && <p className="font-semibold text-rust">{u.problem} What was taken before stays.</p>}
      {u.refused.length > 0 && (
        <ul className="mt-1 max-h-[180px] overflow-y-auto border-l-2 border-amber pl-3">
          {u.refused.map((r, i) => (
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
