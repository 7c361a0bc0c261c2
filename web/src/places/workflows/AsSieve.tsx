import { useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { SieveExport } from '@/api/types';
import { SidePanel } from '@/parts/SidePanel';
import { Loaded } from '@/parts/States';

/** What of the workflow fits as a Sieve script, and what does not. */
export function AsSieve({
  workflowId,
  open,
  onClose,
}: {
  workflowId: number;
  open: boolean;
  onClose: () => void;
}) {
  const script = useQuery({
    queryKey: ['workflow', workflowId, 'sieve'],
    enabled: open,
    gcTime: 0,
    queryFn: () =>
      body(
        api.GET('/api/workflows/{id}/sieve', { params: { path: { id: workflowId } } }),
      ) as Promise<SieveExport>,
  });
  return (
    <SidePanel title="As a Sieve script" open={open} onClose={onClose} wide>
      <p className="mb-3 max-w-[70ch] text-soft">
        A mail server that knows Sieve (RFC 5228) can carry out what stands here. The rest stays with Post
        Tide.
      </p>
      <Loaded query={script}>
        {(s) => (
          <>
            {s.script && (
              <pre
                tabIndex={0}
                aria-label="Script"
                className="mb-4 max-h-[46vh] shrink-0 overflow-auto border border-line bg-sheet p-3 font-mono text-[12.5px]"
              >
                {s.script}
              </pre>
            )}
            <Notes title="Does not fit" notes={s.doesNotFit} />
            <Notes title="Fits nearly" notes={s.fitsNearly} />
          </>
        )}
      </Loaded>
    </SidePanel>
  );
}

function Notes({ title, notes }: { title: string; notes: string[] }) {
  if (notes.length === 0) return null;
  return (
    <div className="mb-3">
      <h3 className="caps mb-1">{title}</h3>
      <ul className="border-t border-ink">
        {notes.map((n) => (
          <li key={n} className="border-b border-faint py-0.5">
            {n}
          </li>
        ))}
      </ul>
    </div>
  );
}
