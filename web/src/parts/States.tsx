import type { UseQueryResult } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { Button } from './Button';

/** An empty place: what belongs here, and the one next step. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="max-w-[52ch] py-10 text-soft">
      <p className="heading mb-1 text-ink">{title}</p>
      {children}
    </div>
  );
}

/** A failure: what happened, what was kept, what to do. */
export function Problem({ error, retry }: { error: Error; retry?: () => void }) {
  return (
    <div role="alert" className="my-4 border-l-4 border-rust bg-rust-wash px-4 py-3">
      <p className="font-semibold">{error.message}</p>
      {retry && (
        <Button kind="quiet" className="mt-1 px-0" onClick={retry}>
          Try again
        </Button>
      )}
    </div>
  );
}

/** Shows an answer once it is there, and keeps showing the last one while a new one is on its way. */
export function Loaded<T>({
  query,
  children,
}: {
  query: UseQueryResult<T>;
  children: (data: T) => ReactNode;
}) {
  if (query.data !== undefined) return <>{children(query.data)}</>;
  if (query.error) return <Problem error={query.error} retry={() => void query.refetch()} />;
  return (
    <p role="status" className="py-6 text-soft">
      Loading…
    </p>
  );
}
