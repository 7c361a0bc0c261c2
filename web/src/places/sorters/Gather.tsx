import { useState } from 'react';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { SorterView } from '@/api/types';
import { Button } from '@/parts/Button';
import { SelectField } from '@/parts/Field';
import { notify } from '@/parts/Notices';
import { SidePanel } from '@/parts/SidePanel';
import { Problem } from '@/parts/States';
import { useSetup } from '@/parts/useSetup';
import { sendFile } from '../mail/sendFile';
import { nameOf } from './words';

const most = 500;

/** Many labels at once: from a queue people put mail into, from a mailbox, or from folders of mail files. */
export function Gather({ view, open, onClose }: { view: SorterView; open: boolean; onClose: () => void }) {
  return (
    <SidePanel title="Bring in examples" open={open} onClose={onClose}>
      <FromHere view={view} onClose={onClose} />
      <FromFolders view={view} />
    </SidePanel>
  );
}

function FromHere({ view, onClose }: { view: SorterView; onClose: () => void }) {
  const setup = useSetup().data;
  const client = useQueryClient();
  const [from, setFrom] = useState('');
  const [category, setCategory] = useState<string | undefined>(undefined);
  const [kind, id] = from.split(':');
  const ready = from !== '' && category !== undefined;
  const ask = (write: boolean) =>
    body(
      api.POST('/api/sorters/{id}/gather', {
        params: { path: { id: view.id } },
        body: {
          from: kind === 'mailbox' ? 'Mailbox' : 'Queue',
          id: Number(id),
          categoryId: category === '' ? null : category!,
          most,
          write,
        },
      }),
    );
  const count = useQuery({
    queryKey: ['sorters', view.id, 'gather', from, category],
    enabled: ready,
    queryFn: () => ask(false),
  });
  const gather = useMutation({
    mutationFn: () => ask(true),
    onSuccess: (labelled) => {
      void client.invalidateQueries({ queryKey: ['sorters'] });
      notify({ text: `${labelled} messages were labelled. It is trained again.` });
      onClose();
    },
  });
  return (
    <section aria-label="From past routing" className="mb-6">
      <h3 className="heading mb-2 !text-[16px]">From where people put it</h3>
      <SelectField label="Messages in" value={from} onChange={(e) => setFrom(e.target.value)}>
        <option value="">choose a queue or a mailbox</option>
        {setup?.queues.map((q) => (
          <option key={q.id} value={`queue:${q.id}`}>
            queue {q.name}
          </option>
        ))}
        {setup?.mailboxes.map((m) => (
          <option key={m.id} value={`mailbox:${m.id}`}>
            mailbox {m.name}
          </option>
        ))}
      </SelectField>
      <SelectField
        label="Are"
        value={category ?? 'choose'}
        onChange={(e) => setCategory(e.target.value === 'choose' ? undefined : e.target.value)}
        hint={`The newest ${most} at most; messages that have a label keep it.`}
      >
        <option value="choose">choose a category</option>
        {view.settings.categories.map((c) => (
          <option key={c.id} value={c.id}>
            {c.name}
          </option>
        ))}
        <option value="">None of these</option>
      </SelectField>
      {gather.error && <Problem error={gather.error} />}
      <Button
        kind="main"
        disabled={!ready || !count.data || gather.isPending}
        onClick={() => gather.mutate()}
      >
        {ready && count.data !== undefined
          ? count.data === 0
            ? 'No message without a label there'
            : `Label ${count.data} messages`
          : 'Label'}
      </Button>
    </section>
  );
}

/** Sub-folders whose names are categories, each with mail files. */
function FromFolders({ view }: { view: SorterView }) {
  const mailboxes = useSetup().data?.mailboxes ?? [];
  const client = useQueryClient();
  const [mailbox, setMailbox] = useState('');
  const [sent, setSent] = useState<{ done: number; of: number } | null>(null);
  const [strange, setStrange] = useState<string[]>([]);
  const chosen = mailbox || String(mailboxes[0]?.id ?? '');
  const categoryOf = (file: File): string | null | undefined => {
    const folder = file.webkitRelativePath.split('/').at(-2)?.trim().toLowerCase() ?? '';
    if (folder === 'none of these' || folder === 'none-of-these') return null;
    return view.settings.categories.find((c) => c.name.trim().toLowerCase() === folder)?.id;
  };
  const send = useMutation({
    mutationFn: async (files: File[]) => {
      const known = files.filter((f) => categoryOf(f) !== undefined);
      setStrange([
        ...new Set(
          files
            .filter((f) => categoryOf(f) === undefined)
            .map((f) => f.webkitRelativePath.split('/').at(-2) ?? f.name),
        ),
      ]);
      for (const [done, file] of known.entries()) {
        setSent({ done, of: known.length });
        await sendFile(
          file,
          {
            mailboxId: chosen,
            carryOut: 'false',
            sorterId: String(view.id),
            categoryId: categoryOf(file) ?? '',
          },
          () => undefined,
        );
      }
      return known.length;
    },
    onSuccess: (count) => {
      void client.invalidateQueries({ queryKey: ['sorters'] });
      notify({ text: `${count} files were sent. Their messages become examples as they are taken in.` });
    },
    onSettled: () => setSent(null),
  });
  return (
    <section aria-label="From folders">
      <h3 className="heading mb-2 !text-[16px]">From folders of mail files</h3>
      <p className="mb-2 text-soft">
        Choose a folder whose sub-folders are called like the categories (
        {view.settings.categories.map((c) => nameOf(view.settings, c.id)).join(', ')} or None of these), with
        .eml or mbox files in them. The messages are kept as old mail.
      </p>
      <SelectField label="Into the mailbox" value={chosen} onChange={(e) => setMailbox(e.target.value)}>
        {mailboxes.map((m) => (
          <option key={m.id} value={m.id}>
            {m.name}
          </option>
        ))}
      </SelectField>
      <label className="caps mb-1 block" htmlFor="example-folder">
        Folder
      </label>
      <input
        id="example-folder"
        type="file"
        multiple
        {...{ webkitdirectory: '' }}
        disabled={send.isPending || chosen === ''}
        className="boxed w-full py-1.5"
        onChange={(e) => {
          const files = [...(e.target.files ?? [])];
          e.target.value = '';
          if (files.length > 0) send.mutate(files);
        }}
      />
      {sent && (
        <p role="status" className="mt-2">
          Sending {sent.done + 1} of {sent.of}
        </p>
      )}
      {strange.length > 0 && (
        <p className="mt-2 text-amber">
          No category is called {strange.join(', ')}; what lies there was left out.
        </p>
      )}
      {send.error && <Problem error={send.error} />}
    </section>
  );
}
