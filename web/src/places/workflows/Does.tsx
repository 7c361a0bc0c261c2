import type { ReactNode } from 'react';
import { Popover } from 'radix-ui';
import type { Line } from '@/api/types';
import { useSetup } from '@/parts/useSetup';
import { Band, type BandProps } from './Bands';
import { FilesEditor, PassOnEditor, QueueEditor, ReplyEditor, TicketEditor, WhenEditor } from './LineEditors';
import { effectWords, MailboxEditor } from './MailboxEditor';
import { folderWords, isEmptySet, minutesWords, moveBy, newId, newLine, removeAt, replaceAt } from './sheet';

/** The table of lines: when it is, and what then happens. The first line that fits is carried out. */
export function Does({ sheet, onChange, rehearsal, onOpen, problems, readOnly }: BandProps) {
  const setup = useSetup().data;
  const put = (i: number, line: Line) => onChange({ ...sheet, lines: replaceAt(sheet.lines, i, line) });
  const name = (list: { id: number; name: string }[] | undefined, id: number) =>
    list?.find((x) => x.id === id)?.name ?? 'gone';
  return (
    <Band name="Does" note="first line that fits">
      <table className="w-full table-fixed border-collapse border border-line bg-sheet">
        <thead>
          <tr className="border-b border-ink text-left">
            {['When it is', 'Queue', 'Ticket', 'Files', 'Reply', 'Pass on', 'Mailbox'].map((h, i) => (
              <th key={h} className={`caps px-2 py-1.5 ${i === 0 ? 'w-[17.5%]' : ''}`}>
                {h}
              </th>
            ))}
            <th className="caps w-[42px] px-1 py-1.5 text-right">Fits</th>
            {!readOnly && <th className="w-[54px]" aria-label="Order" />}
          </tr>
        </thead>
        <tbody>
          {sheet.lines.map((line, i) => {
            const idle =
              !line.queue && !line.ticket && !line.files && !line.reply && !line.passOn && !line.inMailbox;
            const cell = { line, setup, readOnly, onChange: (l: Line) => put(i, l) };
            return (
              <tr key={line.id} className="border-b border-faint align-top">
                <Cell
                  label={`Line ${i + 1}, when`}
                  readOnly={readOnly}
                  editor={
                    <WhenEditor
                      {...cell}
                      sheet={sheet}
                      problems={problems}
                      onCopy={() =>
                        onChange({
                          ...sheet,
                          lines: sheet.lines.toSpliced(i + 1, 0, { ...line, id: newId('l') }),
                        })
                      }
                      onRemove={() => onChange({ ...sheet, lines: removeAt(sheet.lines, i) })}
                    />
                  }
                >
                  <span
                    className={line.case === 'NoneOfThese' ? 'font-semibold text-amber' : 'font-semibold'}
                  >
                    {line.case === 'Any'
                      ? 'Anything'
                      : line.case === 'NoneOfThese'
                        ? 'None of these'
                        : (sheet.categories.find((c) => c.id === line.categoryId)?.name ?? 'gone')}
                  </span>
                  {!isEmptySet(line.andWhen) && (
                    <Small>
                      and {line.andWhen.all.length + line.andWhen.any.length + line.andWhen.none.length} more
                      conditions
                    </Small>
                  )}
                  {problems.has(line.id) && (
                    <span className="block text-[12px] text-amber">{problems.get(line.id)}</span>
                  )}
                </Cell>
                <Cell label={`Line ${i + 1}, queue`} readOnly={readOnly} editor={<QueueEditor {...cell} />}>
                  {line.queue ? (
                    <>
                      {name(setup?.queues, line.queue.queueId)}
                      {line.queue.dueInMinutes !== null && (
                        <Small>due in {minutesWords(line.queue.dueInMinutes)}</Small>
                      )}
                    </>
                  ) : idle ? (
                    <span className="text-soft">leave alone</span>
                  ) : null}
                </Cell>
                <Cell label={`Line ${i + 1}, ticket`} readOnly={readOnly} editor={<TicketEditor {...cell} />}>
                  {line.ticket && (
                    <>
                      {line.ticket.mode === 'AddOnly' ? 'Add to its ticket' : line.ticket.label}
                      {line.ticket.mode !== 'AddOnly' && line.ticket.priority !== 'Normal' && (
                        <Small>priority {line.ticket.priority.toLowerCase()}</Small>
                      )}
                    </>
                  )}
                </Cell>
                <Cell label={`Line ${i + 1}, files`} readOnly={readOnly} editor={<FilesEditor {...cell} />}>
                  {line.files && (
                    <>
                      <span className="break-words">{folderWords(line.files.folder)}</span>
                      {line.files.onlyEndings.length > 0 && (
                        <Small>{line.files.onlyEndings.join(', ')} only</Small>
                      )}
                    </>
                  )}
                </Cell>
                <Cell label={`Line ${i + 1}, reply`} readOnly={readOnly} editor={<ReplyEditor {...cell} />}>
                  {line.reply && (
                    <>
                      {name(setup?.templates, line.reply.templateId)}
                      <Small>
                        {line.reply.mode === 'Check'
                          ? 'for checking'
                          : line.reply.delayMinutes > 0
                            ? `send after ${minutesWords(line.reply.delayMinutes)}`
                            : 'send at once'}
                        {line.reply.to === 'FirstAddressInBody' && ', to the address in the text'}
                      </Small>
                    </>
                  )}
                </Cell>
                <Cell
                  label={`Line ${i + 1}, pass on`}
                  readOnly={readOnly}
                  editor={<PassOnEditor {...cell} />}
                >
                  {line.passOn && name(setup?.destinations, line.passOn.destinationId)}
                </Cell>
                <Cell
                  label={`Line ${i + 1}, in the mailbox`}
                  readOnly={readOnly}
                  editor={<MailboxEditor {...cell} />}
                >
                  {line.inMailbox && (
                    <span className="break-words">{line.inMailbox.effects.map(effectWords).join(', ')}</span>
                  )}
                </Cell>
                <td className="px-1 py-1.5 text-right">
                  <button
                    className="press font-semibold hover:underline"
                    onClick={() => onOpen('Line', line.id, `Line ${i + 1}`)}
                    aria-label={`Messages line ${i + 1} fits`}
                  >
                    {rehearsal ? (rehearsal.summary.lines[line.id] ?? 0).toLocaleString('en') : '…'}
                  </button>
                </td>
                {!readOnly && (
                  <td className="px-0.5 py-1.5 text-center leading-none whitespace-nowrap text-soft">
                    <button
                      aria-label={`Move line ${i + 1} up`}
                      disabled={i === 0}
                      className="press disabled:opacity-30"
                      onClick={() => onChange({ ...sheet, lines: moveBy(sheet.lines, i, -1) })}
                    >
                      ↑
                    </button>
                    <button
                      aria-label={`Move line ${i + 1} down`}
                      disabled={i === sheet.lines.length - 1}
                      className="press disabled:opacity-30"
                      onClick={() => onChange({ ...sheet, lines: moveBy(sheet.lines, i, 1) })}
                    >
                      ↓
                    </button>
                  </td>
                )}
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="mt-1.5 flex gap-5">
        {!readOnly && (
          <button
            className="link"
            onClick={() => onChange({ ...sheet, lines: [...sheet.lines, newLine(sheet)] })}
          >
            Add a line
          </button>
        )}
        {rehearsal && rehearsal.summary.takenIn > 0 && (
          <button
            className="text-soft hover:underline"
            onClick={() => onOpen('WithoutLine', undefined, 'Without a line')}
          >
            {rehearsal.summary.withoutLine === 0
              ? 'Nothing taken in is left without a line.'
              : `${rehearsal.summary.withoutLine} taken in fit no line.`}
          </button>
        )}
        {problems.has('does') && <span className="text-amber">{problems.get('does')}</span>}
      </p>
    </Band>
  );
}

function Small({ children }: { children: ReactNode }) {
  return <span className="block text-[12px] leading-tight text-soft">{children}</span>;
}

function Cell({
  label,
  editor,
  children,
  readOnly,
}: {
  label: string;
  editor: ReactNode;
  children: ReactNode;
  readOnly: boolean;
}) {
  const empty = children === null || children === undefined || children === false;
  return (
    <td className="border-r border-faint p-0">
      <Popover.Root>
        <Popover.Trigger
          aria-label={label}
          disabled={readOnly}
          className="block h-full w-full px-2 py-1.5 text-left text-[13px] leading-snug break-words hover:bg-paper disabled:hover:bg-transparent"
        >
          {empty ? <span className="text-soft">—</span> : children}
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            align="start"
            sideOffset={2}
            collisionPadding={12}
            className="z-40 max-h-[70vh] min-w-[290px] overflow-y-auto border border-ink bg-paper p-3"
          >
            {editor}
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </td>
  );
}
