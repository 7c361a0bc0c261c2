import { useState } from 'react';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { OutsideSorterSetup } from '@/api/types';
import { Button } from '@/parts/Button';
import { TextField } from '@/parts/Field';
import { notify } from '@/parts/Notices';
import { Loaded, Problem } from '@/parts/States';

/** The service that may be asked to sort; off until a keeper switches it on. */
export function OutsideSorterForm({ may }: { may: boolean }) {
  const setup = useQuery({
    queryKey: ['setup', 'outside-sorter'],
    queryFn: () => body(api.GET('/api/setup/outside-sorter')),
  });
  return (
    <Loaded query={setup}>
      {(record) => <Fields key={JSON.stringify(record)} record={record} may={may} />}
    </Loaded>
  );
}

function Fields({ record, may }: { record: OutsideSorterSetup; may: boolean }) {
  const client = useQueryClient();
  const [draft, setDraft] = useState({ ...record, key: '' });
  const save = useMutation({
    mutationFn: () =>
      api.PUT('/api/setup/outside-sorter', {
        body: {
          on: draft.on,
          address: draft.address,
          model: draft.model,
          key: draft.key === '' ? null : draft.key,
          mostCharacters: draft.mostCharacters,
          timeoutSeconds: draft.timeoutSeconds,
        },
      }),
    onSuccess: () => {
      notify({ text: 'The outside sorter was saved.' });
      void client.invalidateQueries({ queryKey: ['setup'] });
    },
  });
  return (
    <form
      className="max-w-[520px]"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <p className="mb-3 text-soft">
        A service that speaks the chat-completions JSON form. While it is off nothing leaves this machine.
        While it is on, a sorter asks it only where a keeper says so on the sorter’s page, which also shows
        exactly what would leave.
      </p>
      <label className="mb-3 flex items-center gap-2">
        <input
          type="checkbox"
          checked={draft.on}
          disabled={!may}
          onChange={(e) => setDraft({ ...draft, on: e.target.checked })}
        />
        the outside sorter may be asked
      </label>
      <TextField
        label="Address"
        value={draft.address}
        disabled={!may}
        placeholder="http://127.0.0.1:7181/sorter/v1"
        onChange={(e) => setDraft({ ...draft, address: e.target.value })}
        hint="The address below which it has chat/completions. Redirects are not followed."
      />
      <TextField
        label="Model"
        value={draft.model}
        disabled={!may}
        onChange={(e) => setDraft({ ...draft, model: e.target.value })}
      />
      <TextField
        label="Key"
        type="password"
        autoComplete="off"
        value={draft.key}
        disabled={!may}
        placeholder={record.hasKey ? 'a key is kept; leave empty to keep it' : 'none'}
        onChange={(e) => setDraft({ ...draft, key: e.target.value })}
        hint="Kept encrypted. It is forgotten when the address changes."
      />
      <div className="grid grid-cols-2 gap-4">
        <TextField
          label="Characters of a message at most"
          type="number"
          min={100}
          max={20000}
          value={draft.mostCharacters}
          disabled={!may}
          onChange={(e) => setDraft({ ...draft, mostCharacters: Number(e.target.value) })}
        />
        <TextField
          label="Seconds for an answer"
          type="number"
          min={1}
          max={120}
          value={draft.timeoutSeconds}
          disabled={!may}
          onChange={(e) => setDraft({ ...draft, timeoutSeconds: Number(e.target.value) })}
        />
      </div>
      {save.error && <Problem error={save.error} />}
      {may && (
        <Button kind="main" type="submit" disabled={save.isPending}>
          Save
        </Button>
      )}
    </form>
  );
}
