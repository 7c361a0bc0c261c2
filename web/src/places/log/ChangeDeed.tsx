import { useState } from 'react';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { api } from '@/api/client';
import type { DeedView } from '@/api/types';
import { Button } from '@/parts/Button';
import { notify } from '@/parts/Notices';
import { useSetup } from '@/parts/useSetup';

/** Aims a stuck deed elsewhere and tries it again. A reply's text is changed where replies are. */
export function ChangeDeed({ deed }: { deed: DeedView }) {
  const destinations = useSetup().data?.destinations ?? [];
  const [destination, setDestination] = useState('');
  const [folder, setFolder] = useState('');
  const client = useQueryClient();
  const change = useMutation({
    mutationFn: () =>
      api.POST('/api/deeds/{id}/change', {
        params: { path: { id: deed.id } },
        body: { destinationId: destination ? Number(destination) : null, folder: folder || null },
      }),
    onSuccess: () => {
      notify({ text: 'It was changed and is tried again.' });
      void client.invalidateQueries({ queryKey: ['log'] });
    },
    onError: (e) => notify({ text: e.message }),
  });
  if (deed.kind === 'Reply') {
    return (
      <p className="py-1">
        <Link to="/replies" search={{ show: 'Stuck', deed: deed.id }} className="link">
          Change the reply
        </Link>
      </p>
    );
  }
  if (deed.kind !== 'PassOn' && deed.kind !== 'Mailbox') return null;
  return (
    <p className="flex items-center gap-2 py-1.5">
      {deed.kind === 'PassOn' ? (
        <select
          aria-label="Pass on to"
          className="boxed"
          value={destination}
          onChange={(e) => setDestination(e.target.value)}
        >
          <option value="">pass on elsewhere</option>
          {destinations.map((d) => (
            <option key={d.id} value={d.id}>
              {d.name}
            </option>
          ))}
        </select>
      ) : (
        <input
          aria-label="Move to the folder"
          placeholder="move to another folder"
          className="boxed"
          value={folder}
          onChange={(e) => setFolder(e.target.value)}
        />
      )}
      <Button disabled={(!destination && !folder) || change.isPending} onClick={() => change.mutate()}>
        Change and try again
      </Button>
    </p>
  );
}
