import { useState } from 'react';
import { useMutation } from '@tanstack/react-query';
import { addDays, addHours, format, setHours, startOfDay } from 'date-fns';
import { api } from '@/api/client';
import type { ItemRow } from '@/api/types';
import { Button } from '@/parts/Button';
import { SelectField, TextArea, TextField } from '@/parts/Field';
import { notify } from '@/parts/Notices';
import { SidePanel } from '@/parts/SidePanel';
import { useSetup } from '@/parts/useSetup';

interface Props {
  item: ItemRow;
  open: boolean;
  onClose: () => void;
}

export function HandOn({ item, open, onClose, onDone }: Props & { onDone: () => void }) {
  const queues = useSetup().data?.queues.filter((q) => q.id !== item.queueId) ?? [];
  const [queue, setQueue] = useState('');
  const [note, setNote] = useState('');
  const chosen = queue || String(queues[0]?.id ?? '');
  const back = useMutation({
    mutationFn: () =>
      api.POST('/api/items/{id}/hand-on', {
        params: { path: { id: item.id } },
        body: { queueId: item.queueId, note: null },
      }),
  });
  const act = useMutation({
    mutationFn: () =>
      api.POST('/api/items/{id}/hand-on', {
        params: { path: { id: item.id } },
        body: { queueId: Number(chosen), note },
      }),
    onSuccess: () => {
      notify({
        text: `Handed on to ${queues.find((q) => String(q.id) === chosen)?.name}.`,
        undo: () => back.mutate(),
      });
      onClose();
      onDone();
    },
  });
  return (
    <SidePanel title="Hand on" open={open} onClose={onClose}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          act.mutate();
        }}
      >
        <SelectField label="To the queue" value={chosen} onChange={(e) => setQueue(e.target.value)}>
          {queues.map((q) => (
            <option key={q.id} value={q.id}>
              {q.name}
            </option>
          ))}
        </SelectField>
        <TextArea
          label="Note for whoever takes it"
          rows={4}
          value={note}
          onChange={(e) => setNote(e.target.value)}
        />
        <Button kind="main" type="submit" disabled={chosen === '' || act.isPending}>
          Hand on
        </Button>
      </form>
    </SidePanel>
  );
}

export function Wait({ item, open, onClose }: Props) {
  const choices: [string, Date | null][] = [
    ['for an hour', addHours(new Date(), 1)],
    ['until tomorrow morning', setHours(startOfDay(addDays(new Date(), 1)), 8)],
    ['for three days', addDays(new Date(), 3)],
    ['until somebody takes it up', null],
  ];
  const [own, setOwn] = useState('');
  const act = useMutation({
    mutationFn: (until: Date | null) =>
      api.POST('/api/items/{id}/wait', {
        params: { path: { id: item.id } },
        body: { until: until?.toISOString() ?? null },
      }),
    onSuccess: () => {
      notify({ text: 'Set aside. It stands under Waiting.' });
      onClose();
    },
  });
  return (
    <SidePanel title="Wait" open={open} onClose={onClose}>
      <ul className="mb-4">
        {choices.map(([label, until]) => (
          <li key={label} className="border-b border-faint">
            <button className="link w-full py-2 text-left" onClick={() => act.mutate(until)}>
              {label}{' '}
              {until && <span className="font-normal text-soft">{format(until, 'EEE d MMM HH:mm')}</span>}
            </button>
          </li>
        ))}
      </ul>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (own) act.mutate(new Date(own));
        }}
      >
        <TextField
          label="Until another time"
          type="datetime-local"
          value={own}
          onChange={(e) => setOwn(e.target.value)}
        />
        <Button type="submit" disabled={!own}>
          Wait until then
        </Button>
      </form>
    </SidePanel>
  );
}

export function Note({ item, open, onClose }: Props) {
  const [text, setText] = useState('');
  const act = useMutation({
    mutationFn: () => api.POST('/api/items/{id}/note', { params: { path: { id: item.id } }, body: { text } }),
    onSuccess: () => {
      setText('');
      onClose();
    },
  });
  return (
    <SidePanel title="Note" open={open} onClose={onClose}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          act.mutate();
        }}
      >
        <TextArea
          label="For the people here; it is not sent"
          rows={6}
          autoFocus
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <Button kind="main" type="submit" disabled={text.trim() === '' || act.isPending}>
          Add the note
        </Button>
      </form>
    </SidePanel>
  );
}
