import { useState } from 'react';
import { useMutation, useQuery } from '@tanstack/react-query';
import { api, body } from '@/api/client';
import type { TicketPriority } from '@/api/types';
import { Button } from './Button';
import { SelectField, TextArea, TextField } from './Field';
import { notify } from './Notices';
import { SidePanel } from './SidePanel';
import { Loaded } from './States';
import { useSetup } from './useSetup';

export type HandDeed = 'place' | 'ticket' | 'file' | 'reply' | 'passOn';

export const handDeeds: { deed: HandDeed; label: string; letter: string }[] = [
  { deed: 'reply', label: 'Reply', letter: 'r' },
  { deed: 'ticket', label: 'Ticket', letter: 't' },
  { deed: 'file', label: 'File', letter: 'f' },
  { deed: 'passOn', label: 'Pass on', letter: 'p' },
];

const titles: Record<HandDeed, string> = {
  place: 'Place in a queue',
  ticket: 'Open a ticket, or add to its ticket',
  file: 'File the attachments',
  reply: 'Reply',
  passOn: 'Pass on to another application',
};

/** Deeds a person does for one message: the same kinds, recorded the same way, as a workflow’s. */
export function ByHand({
  messageId,
  deed,
  onClose,
}: {
  messageId: number;
  deed: HandDeed | null;
  onClose: () => void;
}) {
  return (
    <SidePanel
      title={deed ? titles[deed] : ''}
      open={deed !== null}
      onClose={onClose}
      wide={deed === 'reply'}
    >
      {deed === 'reply' ? (
        <ReplyForm messageId={messageId} onDone={onClose} />
      ) : (
        deed && <DeedForm key={deed} messageId={messageId} deed={deed} onDone={onClose} />
      )}
    </SidePanel>
  );
}

function DeedForm({
  messageId,
  deed,
  onDone,
}: {
  messageId: number;
  deed: Exclude<HandDeed, 'reply'>;
  onDone: () => void;
}) {
  const setup = useSetup();
  const [choice, setChoice] = useState('');
  const [priority, setPriority] = useState<TicketPriority>('Normal');
  const params = { params: { path: { id: messageId } } };
  const act = useMutation({
    mutationFn: (value: string) => {
      switch (deed) {
        case 'place':
          return body(
            api.POST('/api/messages/{id}/place', {
              ...params,
              body: { queueId: Number(value), dueInMinutes: null },
            }),
          );
        case 'ticket':
          return body(api.POST('/api/messages/{id}/ticket', { ...params, body: { label: value, priority } }));
        case 'file':
          return body(api.POST('/api/messages/{id}/file', { ...params, body: { folder: value } }));
        case 'passOn':
          return body(
            api.POST('/api/messages/{id}/pass-on', { ...params, body: { destinationId: Number(value) } }),
          );
      }
    },
    onSuccess: (says) => {
      notify({ text: `Done: ${says.join('; ')}.` });
      onDone();
    },
  });
  return (
    <Loaded query={setup}>
      {(s) => {
        const options = deed === 'place' ? s.queues : s.destinations;
        const value = choice || (deed === 'place' || deed === 'passOn' ? String(options[0]?.id ?? '') : '');
        return (
          <form
            onSubmit={(e) => {
              e.preventDefault();
              act.mutate(value);
            }}
          >
            {deed === 'place' || deed === 'passOn' ? (
              <SelectField
                label={deed === 'place' ? 'Queue' : 'Destination'}
                value={value}
                onChange={(e) => setChoice(e.target.value)}
                hint={options.length === 0 ? 'There is none yet; Setup is where they are made.' : undefined}
              >
                {options.map((o) => (
                  <option key={o.id} value={o.id}>
                    {o.name}
                  </option>
                ))}
              </SelectField>
            ) : deed === 'ticket' ? (
              <>
                <TextField
                  label="Kind of ticket"
                  autoFocus
                  required
                  value={value}
                  onChange={(e) => setChoice(e.target.value)}
                  hint="Summary and description come from the message. If its conversation has a ticket, the message is added to it."
                />
                <SelectField
                  label="Priority"
                  value={priority}
                  onChange={(e) => setPriority(e.target.value as TicketPriority)}
                >
                  <option value="Low">low</option>
                  <option value="Normal">normal</option>
                  <option value="High">high</option>
                </SelectField>
              </>
            ) : (
              <TextField
                label="Folder"
                autoFocus
                required
                value={value}
                onChange={(e) => setChoice(e.target.value)}
                hint={
                  <>
                    Such as <code>Cargo/2026</code>. Values can be filled in:{' '}
                    <code>{'{{ sender_name }}'}</code>.
                  </>
                }
              />
            )}
            <Button kind="main" type="submit" disabled={act.isPending || value === ''}>
              {titles[deed].split(',')[0]}
            </Button>
          </form>
        );
      }}
    </Loaded>
  );
}

function ReplyForm({ messageId, onDone }: { messageId: number; onDone: () => void }) {
  const setup = useSetup();
  const [templateId, setTemplateId] = useState<number | null>(null);
  const [changed, setChanged] = useState<{ to?: string; text?: string }>({});
  const draft = useQuery({
    queryKey: ['draft', messageId, templateId],
    queryFn: () =>
      body(
        api.GET('/api/messages/{id}/reply-draft', {
          params: { path: { id: messageId }, query: templateId ? { templateId } : {} },
        }),
      ),
    staleTime: Infinity,
  });
  const to = changed.to ?? draft.data?.to ?? '';
  const text = changed.text ?? draft.data?.body ?? '';
  const send = useMutation({
    mutationFn: () =>
      api.POST('/api/messages/{id}/reply', {
        params: { path: { id: messageId } },
        body: { to, body: text, templateId },
      }),
    onSuccess: () => {
      notify({ text: `The reply to ${to} is on its way.` });
      onDone();
    },
  });
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        send.mutate();
      }}
    >
      <SelectField
        label="Template"
        value={templateId ?? ''}
        onChange={(e) => {
          setTemplateId(e.target.value ? Number(e.target.value) : null);
          setChanged({ to: changed.to });
        }}
      >
        <option value="">none, written freely</option>
        {setup.data?.templates.map((t) => (
          <option key={t.id} value={t.id}>
            {t.name}
            {t.attachmentName ? ` (with ${t.attachmentName})` : ''}
          </option>
        ))}
      </SelectField>
      <TextField label="To" value={to} onChange={(e) => setChanged({ ...changed, to: e.target.value })} />
      <p className="caps mb-1">Subject</p>
      <p className="mb-3">{draft.data?.subject ?? '…'}</p>
      <TextArea
        label="Text"
        rows={14}
        value={text}
        onChange={(e) => setChanged({ ...changed, text: e.target.value })}
        problem={
          draft.data && draft.data.missing.length > 0
            ? `Not found in the message: ${draft.data.missing.join(', ')}. Look at the gaps before you send.`
            : draft.error?.message
        }
      />
      <Button kind="main" type="submit" disabled={send.isPending || text.trim() === ''}>
        Send
      </Button>
    </form>
  );
}
