import { useState } from 'react';
import { useMay } from '@/api/session';
import type { ReplyRow } from '@/api/types';
import { Button } from '@/parts/Button';
import { TextArea, TextField } from '@/parts/Field';
import { useKeys } from '@/parts/useKeys';
import { when } from '@/parts/time';
import { useReplies, useReplyActs } from './useReplies';

/** The reply that waits for checking, where its message is worked. */
export function CheckReply({ deedId, letters }: { deedId: number; letters?: boolean }) {
  const reply = useReplies('Checking').data?.replies.find((r) => r.deedId === deedId);
  return reply ? <ReplySheet reply={reply} letters={letters} /> : null;
}

const heads: Partial<Record<ReplyRow['state'], string>> = {
  Checking: 'Reply waits for checking',
  Delayed: 'Reply waits for its time',
  Waiting: 'Reply is about to be sent',
  UnderWay: 'Reply is being sent',
  Done: 'Reply was sent',
  Stuck: 'Reply is stuck',
  Dropped: 'Reply was stopped',
};

/** One reply: what would go out, why it waits, and what can be done. */
export function ReplySheet({ reply, letters }: { reply: ReplyRow; letters?: boolean }) {
  const may = useMay('checker');
  const acts = useReplyActs(reply);
  const [editing, setEditing] = useState(false);
  const [text, setText] = useState({ to: reply.to, subject: reply.subject, body: reply.body });
  const open = reply.state === 'Checking' || reply.state === 'Delayed';
  useKeys(letters && may && open && !editing ? { s: () => acts.send.mutate() } : {});
  return (
    <section aria-label="Reply" className="mt-5 border border-t-[3px] border-line border-t-plum bg-sheet">
      <header className="bg-plum-wash px-3 py-1.5">
        <span className="font-bold">{heads[reply.state]}</span>{' '}
        <span className="text-soft">
          {reply.templateName && `from “${reply.templateName}”, `}goes to {reply.to}
          {reply.notBefore && ` at ${when(reply.notBefore)}`}
          {reply.doneAt && `, ${when(reply.doneAt)}`}
          {reply.checkedBy && `, checked by ${reply.checkedBy}`}
        </span>
        {reply.because && <p className="text-soft">{reply.because}</p>}
        {reply.uncertain && (
          <p className="font-semibold text-amber">
            A try ended without an answer, so the recipient may already have it. Every try carries the same
            Message-ID.
          </p>
        )}
      </header>
      {editing ? (
        <form
          className="p-3"
          onSubmit={(e) => {
            e.preventDefault();
            acts.change.mutate(text, { onSuccess: () => setEditing(false) });
          }}
        >
          <TextField label="To" value={text.to} onChange={(e) => setText({ ...text, to: e.target.value })} />
          <TextField
            label="Subject"
            value={text.subject}
            onChange={(e) => setText({ ...text, subject: e.target.value })}
          />
          <TextArea
            label="Text"
            rows={10}
            value={text.body}
            onChange={(e) => setText({ ...text, body: e.target.value })}
          />
          <div className="flex gap-2">
            <Button kind="main" type="submit">
              Save the text
            </Button>
            <Button kind="quiet" onClick={() => setEditing(false)}>
              Leave as it was
            </Button>
          </div>
        </form>
      ) : (
        <>
          <p className="border-b border-faint px-3 py-1.5">
            <span className="text-soft">Subject</span> {reply.subject}
          </p>
          <p className="max-w-[78ch] px-3 py-2.5 text-[14.5px] break-words whitespace-pre-wrap">
            {reply.body}
          </p>
          {reply.attachmentName && <p className="px-3 pb-2 text-soft">with {reply.attachmentName}</p>}
          {may && open && (
            <footer className="flex items-center gap-2 border-t border-faint px-3 py-2">
              <Button
                kind="main"
                letter={letters ? 's' : undefined}
                onClick={() => acts.send.mutate()}
                disabled={acts.send.isPending}
              >
                {reply.state === 'Delayed' ? 'Send now' : 'Send'}
              </Button>
              <Button
                onClick={() => {
                  setText({ to: reply.to, subject: reply.subject, body: reply.body });
                  setEditing(true);
                }}
              >
                Change
              </Button>
              <Button kind="quiet" onClick={() => acts.doNotSend.mutate()}>
                Don’t send
              </Button>
            </footer>
          )}
          {may && reply.state === 'Dropped' && (
            <footer className="border-t border-faint px-3 py-2">
              <Button onClick={() => acts.takeBack.mutate()}>Let it wait for checking again</Button>
            </footer>
          )}
        </>
      )}
    </section>
  );
}
