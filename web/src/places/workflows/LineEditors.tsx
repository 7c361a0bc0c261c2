import type { Line, SetupView, TicketPriority } from '@/api/types';
import { SelectField, TextField } from '@/parts/Field';
import type { BandProps } from './Bands';
import { ConditionEditor } from './ConditionEditor';
import { minutesWords } from './sheet';

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
      </SelectField>
      <p className="caps mb-1">And</p>
      <ConditionEditor
        set={line.andWhen}
        onChange={(andWhen) => onChange({ ...line, andWhen })}
        problems={problems}
        readOnly={readOnly}
      />
      <p className="mt-3 flex gap-4 border-t border-line pt-2">
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

export function QueueEditor({ line, setup, onChange }: EditorProps) {
  const q = line.queue;
  return (
    <>
      <SelectField
        label="Place in the queue"
        value={q?.queueId ?? ''}
        onChange={(e) =>
          onChange({
            ...line,
            queue: e.target.value
              ? { queueId: Number(e.target.value), dueInMinutes: q?.dueInMinutes ?? 240 }
              : null,
          })
        }
      >
        {none}
        {setup?.queues.map((x) => (
          <option key={x.id} value={x.id}>
            {x.name}
          </option>
        ))}
      </SelectField>
      {q && (
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
            onChange({
              ...line,
              queue: {
                ...q,
                dueInMinutes: e.target.value === '' ? null : Math.max(0, Math.round(Number(e.target.value))),
              },
            })
          }
        />
      )}
    </>
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
  const f = line.files;
  return (
    <>
      <label className="mb-2 flex items-center gap-2">
        <input
          type="checkbox"
          checked={f !== null}
          onChange={(e) =>
            onChange({
              ...line,
              files: e.target.checked
                ? { folder: 'Mail/{{ arrived | date: "%Y/%m" }}', onlyEndings: [] }
                : null,
            })
          }
        />
        File the attachments
      </label>
      {f && (
        <>
          <TextField
            label="Folder"
            className="font-mono"
            value={f.folder}
            onChange={(e) => onChange({ ...line, files: { ...f, folder: e.target.value } })}
            hint={'Facts can be filled in, and {{ arrived | date: "%Y/%m" }}.'}
          />
          <TextField
            label="Only files ending in"
            value={f.onlyEndings.join(', ')}
            placeholder="all files"
            onChange={(e) =>
              onChange({
                ...line,
                files: {
                  ...f,
                  onlyEndings: e.target.value
                    .split(/[ ,;]+/)
                    .map((x) => x.replace(/^\./, ''))
                    .filter((x, i, all) => x !== '' || i === all.length - 1),
                },
              })
            }
            onBlur={() =>
              onChange({ ...line, files: { ...f, onlyEndings: f.onlyEndings.filter((x) => x !== '') } })
            }
          />
        </>
      )}
    </>
  );
}

export function ReplyEditor({ line, setup, onChange }: EditorProps) {
  const r = line.reply;
  return (
    <>
      <SelectField
        label="Reply from the template"
        value={r?.templateId ?? ''}
        onChange={(e) =>
          onChange({
            ...line,
            reply: e.target.value
              ? {
                  templateId: Number(e.target.value),
                  mode: r?.mode ?? 'Check',
                  delayMinutes: r?.delayMinutes ?? 0,
                  to: r?.to ?? 'Sender',
                }
              : null,
          })
        }
      >
        {none}
        {setup?.templates.map((t) => (
          <option key={t.id} value={t.id}>
            {t.name}
          </option>
        ))}
      </SelectField>
      {r && (
        <>
          <SelectField
            label="What becomes of it"
            value={r.mode}
            onChange={(e) => onChange({ ...line, reply: { ...r, mode: e.target.value as 'Check' } })}
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
                onChange({
                  ...line,
                  reply: { ...r, delayMinutes: Math.max(0, Math.round(Number(e.target.value) || 0)) },
                })
              }
            />
          )}
          <SelectField
            label="To"
            value={r.to}
            onChange={(e) => onChange({ ...line, reply: { ...r, to: e.target.value as 'Sender' } })}
          >
            <option value="Sender">the reply-to address, or the sender</option>
            <option value="FirstAddressInBody">the first address in the text</option>
          </SelectField>
          <p className="max-w-[38ch] text-soft">A reply with a value missing always waits for a person.</p>
        </>
      )}
    </>
  );
}

export function PassOnEditor({ line, setup, onChange }: EditorProps) {
  return (
    <SelectField
      label="Pass the facts on to"
      value={line.passOn?.destinationId ?? ''}
      onChange={(e) =>
        onChange({ ...line, passOn: e.target.value ? { destinationId: Number(e.target.value) } : null })
      }
    >
      {none}
      {setup?.destinations.map((d) => (
        <option key={d.id} value={d.id}>
          {d.name}
        </option>
      ))}
    </SelectField>
  );
}
