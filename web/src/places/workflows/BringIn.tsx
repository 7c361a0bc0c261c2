import { useState } from 'react';
import { useNavigate } from '@tanstack/react-router';
import { useMutation, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { ImportPreview, SieveImport } from '@/api/types';
import { Button } from '@/parts/Button';
import { TextArea } from '@/parts/Field';
import { notify } from '@/parts/Notices';
import { SidePanel } from '@/parts/SidePanel';
import { Problem } from '@/parts/States';

/** A workflow document brought in: first seen, then made an edition in hand. */
export function BringIn({ open, onClose }: { open: boolean; onClose: () => void }) {
  const navigate = useNavigate();
  const [yaml, setYaml] = useState('');
  const [replace, setReplace] = useState(false);
  const preview = useQuery({
    queryKey: ['import', yaml],
    enabled: open && yaml.trim() !== '',
    queryFn: () =>
      body(
        api.POST('/api/workflows/import/preview', { body: { yaml, replace: false } }),
      ) as Promise<ImportPreview>,
    gcTime: 0,
  });
  const sieve = useMutation({
    mutationFn: (body_: { script: string; name: string }) =>
      body(api.POST('/api/workflows/import/sieve', { body: body_ })) as Promise<SieveImport>,
    onSuccess: (read) => setYaml(read.yaml ?? ''),
  });
  const bring = useMutation({
    mutationFn: () => body(api.POST('/api/workflows/import', { body: { yaml, replace } })),
    onSuccess: (made) => {
      notify({ text: `“${made.name}” is in hand. Nothing happens to mail until you put it live.` });
      onClose();
      void navigate({ to: '/workflows/$id', params: { id: String(made.id) } });
    },
  });
  const p = preview.data;
  const blocked = p?.problems.some((x) => x.blocks) ?? false;
  return (
    <SidePanel title="Bring in a workflow" open={open} onClose={onClose} wide>
      <label className="caps mb-1 block" htmlFor="workflow-file">
        Workflow document, or a Sieve script
      </label>
      <input
        id="workflow-file"
        type="file"
        accept=".yaml,.yml,.sieve"
        className="boxed mb-3 w-full py-1"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (!file) return;
          sieve.reset();
          void file
            .text()
            .then((text) =>
              file.name.endsWith('.sieve')
                ? sieve.mutate({ script: text, name: file.name.replace(/\.sieve$/, '') })
                : setYaml(text),
            );
        }}
      />
      <TextArea
        label="Or its text"
        rows={10}
        className="font-mono text-[12.5px]"
        spellCheck={false}
        value={yaml}
        onChange={(e) => setYaml(e.target.value)}
      />
      {sieve.data && sieve.data.notes.length > 0 && (
        <div role="status" className="mb-3 border-l-4 border-amber bg-amber-wash px-4 py-2">
          <p className="font-semibold">
            {sieve.data.yaml === null
              ? 'This is not a Sieve script that can be read.'
              : 'Not everything in the script has a counterpart.'}
          </p>
          <ul>
            {sieve.data.notes.map((n) => (
              <li key={`${n.line}${n.text}`}>
                {n.line > 0 && `Line ${n.line}: `}
                {n.text}
              </li>
            ))}
          </ul>
        </div>
      )}
      {preview.error && <Problem error={preview.error} />}
      {p && p.problems.length > 0 && (
        <div
          role="alert"
          className={`mb-3 border-l-4 px-4 py-2 ${blocked ? 'border-rust bg-rust-wash' : 'border-amber bg-amber-wash'}`}
        >
          <p className="font-semibold">
            {blocked
              ? 'It cannot be brought in as it is.'
              : 'It can be brought in, but this has to be mended before it can go live.'}
          </p>
          <ul>
            {p.problems.map((x) => (
              <li key={`${x.line}${x.text}`}>
                {x.line > 0 && `Line ${x.line}: `}
                {x.text}
              </li>
            ))}
          </ul>
        </div>
      )}
      {p && !blocked && <Preview preview={p} replace={replace} onReplace={setReplace} />}
      {bring.error && <Problem error={bring.error} />}
      <Button
        kind="main"
        className="self-start"
        disabled={!p || blocked || bring.isPending}
        onClick={() => bring.mutate()}
      >
        Bring it in
      </Button>
    </SidePanel>
  );
}

function Preview({
  preview: p,
  replace,
  onReplace,
}: {
  preview: ImportPreview;
  replace: boolean;
  onReplace: (replace: boolean) => void;
}) {
  return (
    <div className="mb-4">
      <p className="mb-2">
        {p.workflowId === null
          ? `“${p.name}” would be begun at the end of the order.`
          : p.changes.length === 0
            ? `“${p.name}” is here already and would not change.`
            : `“${p.name}” is here already; these changes would be its edition in hand.`}
        {p.new.length > 0 && ` New: ${p.new.join(', ')}.`}
        {p.examples > 0 && ` ${p.examples} kept examples name messages that are here.`}
      </p>
      {p.different.length > 0 && (
        <label className="mb-2 flex items-start gap-2">
          <input
            type="checkbox"
            className="mt-1"
            checked={replace}
            onChange={(e) => onReplace(e.target.checked)}
          />
          <span>
            Replace what stands here with other content: {p.different.join(', ')}. Other workflows may use it
            too.
          </span>
        </label>
      )}
      {p.changes.length > 0 && (
        <ul className="max-h-[260px] overflow-y-auto border-t border-ink text-[13px]" tabIndex={0}>
          {p.changes.map((c, i) => (
            <li key={i} className="border-b border-faint py-1">
              <span className="caps mr-2">{c.band}</span>
              {c.before && <del className="text-soft">{c.before}</del>}{' '}
              {c.after && <strong>{c.after}</strong>}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
