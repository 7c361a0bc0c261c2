import type { ReactNode } from 'react';
import type { Line, SetupView, TicketPriority } from '@/api/types';
import { SelectField, TextField } from '@/parts/Field';
import type { BandProps } from './Bands';
import { ConditionEditor } from './ConditionEditor';
import { minutesWords, removeAt, replaceAt } from './sheet';

export interface EditorProps {
  line: Line;
  setup: SetupView | undefined;
  onChange: (line: Line) => void;
  readOnly: boolean;
}

const none = <option value="">—</option>;

interface WhenProps extends EditorProps, Pick<BandProps, 'sheet' | 'problems'> {
  onCopy: () => void;
  onRemove: () => void;
}

export function WhenEditor({ line, onChange, sheet, problems, readOnly, onCopy, onRemove }: WhenProps) {
  const value = line.case === 'Category' ? `c:${line.categoryId}` : line.case;
  return (
    <div className="w-[520px]">
      <SelectField
        label="The message is"
        value={value}
        onChange={(e) => {
          const v = e.target.value;
          onChange(
            v.startsWith('c:')
              ? { ...line, case: 'Category', categoryId: v.slice(2) }
              : { ...line, case: v as Line['case'], categoryId: null },
          );
        }}
      >
        <option value="Any">anything taken in</option>
        {sheet.categories.map((c) => (
          <option key={c.id} value={`c:${c.id}`}>
            {c.name}
          </option>
        ))}
        <option value="NoneOfThese">none of these</option>
        {(sheet.sorterId !== null || line.case === 'Unsure') && <option value="Unsure">unsure</option>}
      </SelectField>
      {sheet.sorterId !== null && line.case !== 'Unsure' && (
        <TextField
          label="Surety from, in %"
          type="number"
          min={0}
          max={100}
          value={line.suretyFrom === null ? '' : Math.round(line.suretyFrom * 100)}
          placeholder="any that the sorter decides with"
          onChange={(e) =>
            onChange({
              ...line,
              suretyFrom:
                e.target.value === '' ? null : Math.min(100, Math.max(0, Number(e.target.value))) / 100,
            })
          }
        />
      )}
      <p className="caps mb-1">And</p>
      <ConditionEditor
        set={line.andWhen}
        onChange={(andWhen) => onChange({ ...line, andWhen })}
        problems={problems}
        readOnly={readOnly}
        categories={sheet.categories}
      />
      <div className="mt-3">
        <TextField
          label="Note"
          value={line.note ?? ''}
          placeholder="a remark for whoever reads the sheet"
          onChange={(e) => onChange({ ...line, note: e.target.value || null })}
        />
      </div>
      <p className="flex items-center gap-4 border-t border-line pt-2">
        <label className="mr-auto flex items-center gap-2">
          <input
            type="checkbox"
            checked={line.off}
            onChange={(e) => onChange({ ...line, off: e.target.checked })}
          />
          switched off
        </label>
        <button className="link" onClick={onCopy}>
          Copy the line
        </button>
        <button className="link" onClick={onRemove}>
          Remove the line
        </button>
      </p>
    </div>
  );
}

/** A cell that may hold several deeds of one kind: each with its fields, and one more to be added. */
function Several<T>({
  items,
  onChange,
  fresh,
  noun,
  children,
}: {
  items: T[];
  onChange: (items: T[]) => void;
  /** One more; null when there is nothing left to add. */
  fresh: T | null;
  noun: string;
  children: (item: T, put: (item: T) => void, index: number) => ReactNode;
}) {
  return (
    <div className="w-[300px]">
      {items.map((item, i) => (
        <div key={i} className={i > 0 ? 'mt-2 border-t border-line pt-3' : ''}>
          {children(item, (next) => onChange(replaceAt(items, i, next)), i)}
          <button className="link mb-2" onClick={() => onChange(removeAt(items, i))}>
            Remove this {noun}
          </button>
        </div>
      ))}
      {fresh !== null && (
        <button
          className={`link block ${items.length > 0 ? 'border-t border-line pt-2' : ''}`}
          onClick={() => onChange([...items, fresh])}
        >
          {items.length === 0 ? `Add a ${noun}` : `Add another ${noun}`}
        </button>
      )}
      {fresh === null && items.length === 0 && <p className="text-soft">There is no {noun} to choose yet.</p>}
    </div>
  );
}

/** The first record that is not used yet. */
const unused = (all: { id: number }[] | undefined, used: number[]) => all?.find((x) => !used.includes(x.id));

export function QueueEditor({ line, setup, onChange }: EditorProps) {
  const next = unused(
    setup?.queues,
    line.queues.map((q) => q.queueId),
  );
  return (
    <Several
      items={line.queues}
      noun="queue"
      fresh={next ? { queueId: next.id, dueInMinutes: 240 } : null}
      onChange={(queues) => onChange({ ...line, queues })}
    >
      {(q, put) => (
        <>
          <SelectField
            label="Place in the queue"
            value={q.queueId}
            onChange={(e) => put({ ...q, queueId: Number(e.target.value) })}
          >
            {setup?.queues.map((x) => (
              <option key={x.id} value={x.id}>
                {x.name}
              </option>
            ))}
          </SelectField>
          <TextField
            label="Due after arrival, in minutes"
            type="number"
            min={0}
            value={q.dueInMinutes ?? ''}
            hint={
              q.dueInMinutes === null
                ? 'No due time.'
                : `That is ${minutesWords(q.dueInMinutes)}. Empty for none.`
            }
            onChange={(e) =>
              put({
                ...q,
                dueInMinutes: e.target.value === '' ? null : Math.max(0, Math.round(Number(e.target.value))),
              })
            }
          />
        </>
      )}
    </Several>
  );
}

export function TicketEditor({ line, onChange }: EditorProps) {
  const t = line.ticket;
  return (
    <>
      <SelectField
        label="Ticket"
        value={t?.mode ?? ''}
        onChange={(e) =>
          onChange({
            ...line,
            ticket: e.target.value
              ? {
                  mode: e.target.value as 'OpenOrAdd',
                  label: t?.label ?? 'Request',
                  priority: t?.priority ?? 'Normal',
                }
              : null,
          })
        }
      >
        {none}
        <option value="OpenOrAdd">open one, or add to the one referred to</option>
        <option value="AddOnly">only add to the one referred to</option>
      </SelectField>
      {t?.mode === 'OpenOrAdd' && (
        <>
          <TextField
            label="Kind"
            value={t.label}
            onChange={(e) => onChange({ ...line, ticket: { ...t, label: e.target.value } })}
            hint="Summary is the subject, description the new part of the body."
          />
          <SelectField
            label="Priority"
            value={t.priority}
            onChange={(e) =>
              onChange({ ...line, ticket: { ...t, priority: e.target.value as TicketPriority } })
            }
          >
            <option value="Low">low</option>
            <option value="Normal">normal</option>
            <option value="High">high</option>
          </SelectField>
        </>
      )}
    </>
  );
}

export function FilesEditor({ line, onChange }: EditorProps) {
  return (
    <Several
      items={line.files}
      noun="folder"
      fresh={{ folder: 'Mail/{{ arrived | date: "%Y/%m" }}', onlyEndings: [] }}
      onChange={(files) => onChange({ ...line, files })}
    >
      {(f, put) => (
        <>
          <TextField
            label="File the attachments in"
            className="font-mono"
            value={f.folder}
            onChange={(e) => put({ ...f, folder: e.target.value })}
            hint={'Facts can be filled in, and {{ arrived | date: "%Y/%m" }}.'}
          />
          <TextField
            label="Only files ending in"
            value={f.onlyEndings.join(', ')}
            placeholder="all files"
            onChange={(e) =>
              put({
                ...f,
                onlyEndings: e.target.value
                  .split(/[ ,;]+/)
                  .map((x) => x.replace(/^\./, ''))
                  .filter((x, i, all) => x !== '' || i === all.length - 1),
              })
            }
            onBlur={() => put({ ...f, onlyEndings: f.onlyEndings.filter((x) => x !== '') })}
          />
        </>
      )}
    </Several>
  );
}

export function ReplyEditor({ line, setup, onChange }: EditorProps) {
  const first = setup?.templates[0];
  const to = line.replies.some((r) => r.to === 'Sender') ? 'FirstAddressInBody' : 'Sender';
  return (
    <Several
      items={line.replies}
      noun="reply"
      fresh={
        first && line.replies.length < 2
          ? { templateId: first.id, mode: 'Check' as const, delayMinutes: 0, to: to as 'Sender' }
          : null
      }
      onChange={(replies) => onChange({ ...line, replies })}
    >
      {(r, put) => (
        <>
          <SelectField
            label="Reply from the template"
            value={r.templateId}
            onChange={(e) => put({ ...r, templateId: Number(e.target.value) })}
          >
            {setup?.templates.map((t) => (
              <option key={t.id} value={t.id}>
                {t.name}
              </option>
            ))}
          </SelectField>
          <SelectField
            label="What becomes of it"
            value={r.mode}
            onChange={(e) => put({ ...r, mode: e.target.value as 'Check' })}
          >
            <option value="Check">a person checks it</option>
            <option value="Send">it is sent</option>
          </SelectField>
          {r.mode === 'Send' && (
            <TextField
              label="After, in minutes"
              type="number"
              min={0}
              value={r.delayMinutes}
              hint="While it waits it can be stopped."
              onChange={(e) =>
                put({ ...r, delayMinutes: Math.max(0, Math.round(Number(e.target.value) || 0)) })
              }
            />
          )}
          <SelectField
            label="To"
            value={r.to}
            hint="A reply with a value missing always waits for a person."
            onChange={(e) => put({ ...r, to: e.target.value as 'Sender' })}
          >
            <option value="Sender">the reply-to address, or the sender</option>
            <option value="FirstAddressInBody">the first address in the text</option>
          </SelectField>
        </>
      )}
    </Several>
  );
}

export function PassOnEditor({ line, setup, onChange }: EditorProps) {
  const next = unused(
    setup?.destinations,
    line.passOns.map((p) => p.destinationId),
  );
  return (
    <Several
      items={line.passOns}
      noun="destination"
      fresh={next ? { destinationId: next.id } : null}
      onChange={(passOns) => onChange({ ...line, passOns })}
    >
      {(p, put) => (
        <SelectField
          label="Pass the facts on to"
          value={p.destinationId}
          onChange={(e) => put({ destinationId: Number(e.target.value) })}
        >
          {setup?.destinations.map((d) => (
            <option key={d.id} value={d.id}>
              {d.name}
            </option>
          ))}
        </SelectField>
      )}
    </Several>
  );
}
