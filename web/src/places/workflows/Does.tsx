import type { ReactNode } from 'react';
import { Popover } from 'radix-ui';
import type { Line, Rehearsal, SetupView, Sheet } from '@/api/types';
import { Reorder, ReorderRow } from '@/parts/Reorder';
import { useSetup } from '@/parts/useSetup';
import { Band, type BandProps } from './Bands';
import { isEmptySet, leavesOf, newId } from './conditions';
import { FilesEditor, PassOnEditor, QueueEditor, ReplyEditor, TicketEditor, WhenEditor } from './LineEditors';
import { effectWords, MailboxEditor } from './MailboxEditor';
import { doesNothing, folderWords, minutesWords, moveTo, newLine, removeAt, replaceAt } from './sheet';
import { TableNotes } from './TableNotes';

const heads = ['When it is', 'Queue', 'Ticket', 'Files', 'Reply', 'Pass on', 'Mailbox'];

/** The table of lines: when it is, and what then happens. */
export function Does(props: BandProps) {
  const { sheet, onChange, rehearsal, problems, readOnly } = props;
  const move = (from: number, to: number) => onChange({ ...sheet, lines: moveTo(sheet.lines, from, to) });
  return (
    <Band
      name="Does"
      note={
        <>
          <select
            aria-label="Which lines are carried out"
            className="-ml-1 field-sizing-content bg-transparent underline decoration-dotted disabled:no-underline"
            disabled={readOnly}
            value={sheet.everyLine ? 'every' : 'first'}
            onChange={(e) => onChange({ ...sheet, everyLine: e.target.value === 'every' })}
          >
            <option value="first">first line</option>
            <option value="every">every line</option>
          </select>{' '}
          that fits
        </>
      }
    >
      <table className="w-full table-fixed border-collapse border border-line bg-sheet">
        <thead>
          <tr className="border-b border-ink text-left">
            <th className="w-[36px]" aria-label="Line" />
            {heads.map((h, i) => (
              <th key={h} className={`caps px-2 py-1.5 ${i === 0 ? 'w-[18%]' : ''}`}>
                {h}
              </th>
            ))}
            <th className="caps w-[42px] px-1 py-1.5 text-right">Fits</th>
          </tr>
        </thead>
        <tbody>
          <Reorder ids={sheet.lines.map((l) => l.id)} onMove={move}>
            {sheet.lines.map((line, i) => (
              <ReorderRow
                key={line.id}
                id={line.id}
                name={`line ${i + 1}`}
                index={i}
                onMove={move}
                disabled={readOnly}
                className={`border-b border-faint align-top ${line.off ? 'opacity-55' : ''}`}
              >
                {(handle) => <Row {...props} line={line} index={i} handle={handle} />}
              </ReorderRow>
            ))}
          </Reorder>
        </tbody>
      </table>
      <p className="mt-1.5 flex flex-wrap gap-x-5 gap-y-1">
        {!readOnly && (
          <button
            className="link"
            onClick={() => onChange({ ...sheet, lines: [...sheet.lines, newLine(sheet)] })}
          >
            Add a line
          </button>
        )}
        {problems.has('does') && <span className="text-amber">{problems.get('does')}</span>}
      </p>
      {rehearsal && <TableNotes {...props} rehearsal={rehearsal} />}
    </Band>
  );
}

interface RowProps extends BandProps {
  line: Line;
  index: number;
  handle: ReactNode;
}

function Row({
  sheet,
  onChange,
  rehearsal,
  onOpen,
  problems,
  readOnly,
  findings,
  line,
  index: i,
  handle,
}: RowProps) {
  const setup = useSetup().data;
  const cell = {
    line,
    setup,
    readOnly,
    onChange: (l: Line) => onChange({ ...sheet, lines: replaceAt(sheet.lines, i, l) }),
  };
  const said = [
    problems.get(line.id),
    ...findings.filter((f) => f.at === line.id && f.kind !== 'FallsThrough').map((f) => f.text),
  ];
  return (
    <>
      <td className="border-r border-faint py-1.5 text-center text-soft">
        <span className="flex flex-col items-center leading-tight">
          {i + 1}
          {handle}
        </span>
      </td>
      <Cell
        label={`Line ${i + 1}, when`}
        readOnly={readOnly}
        editor={
          <WhenEditor
            {...cell}
            sheet={sheet}
            problems={problems}
            onCopy={() =>
              onChange({ ...sheet, lines: sheet.lines.toSpliced(i + 1, 0, { ...line, id: newId('l') }) })
            }
            onRemove={() => onChange({ ...sheet, lines: removeAt(sheet.lines, i) })}
          />
        }
      >
        <When line={line} sheet={sheet} />
        {said.filter(Boolean).map((text) => (
          <span key={text} className="block text-[12px] text-amber">
            {text}
          </span>
        ))}
      </Cell>
      <Deeds {...cell} index={i} />
      <td className="px-1 py-1.5 text-right">
        <Fits line={line} index={i} rehearsal={rehearsal} onOpen={onOpen} />
      </td>
    </>
  );
}

function When({ line, sheet }: { line: Line; sheet: Sheet }) {
  const more = leavesOf(line.andWhen).length;
  return (
    <>
      <span
        className={
          line.case === 'NoneOfThese' || line.case === 'Unsure' ? 'font-semibold text-amber' : 'font-semibold'
        }
      >
        {line.case === 'Any'
          ? 'Anything'
          : line.case === 'NoneOfThese'
            ? 'None of these'
            : line.case === 'Unsure'
              ? 'Unsure'
              : (sheet.categories.find((c) => c.id === line.categoryId)?.name ?? 'gone')}
      </span>
      {line.suretyFrom !== null && <Small>surety from {Math.round(line.suretyFrom * 100)} %</Small>}
      {!isEmptySet(line.andWhen) && (
        <Small>
          and {more} more {more === 1 ? 'condition' : 'conditions'}
        </Small>
      )}
      {line.off && <Small>switched off</Small>}
      {line.note && <Small>“{line.note}”</Small>}
    </>
  );
}

interface DeedsProps {
  line: Line;
  setup: SetupView | undefined;
  readOnly: boolean;
  onChange: (line: Line) => void;
  index: number;
}

/** The cells of what happens; each may hold several deeds. */
function Deeds({ index: i, ...cell }: DeedsProps) {
  const { line, setup, readOnly } = cell;
  const name = (list: { id: number; name: string }[] | undefined, id: number) =>
    list?.find((x) => x.id === id)?.name ?? 'gone';
  const each = <T,>(items: T[], say: (item: T) => ReactNode) =>
    items.length === 0
      ? null
      : items.map((item, n) => (
          <span key={n} className={`block ${n > 0 ? 'mt-1 border-t border-faint pt-1' : ''}`}>
            {say(item)}
          </span>
        ));
  return (
    <>
      <Cell label={`Line ${i + 1}, queue`} readOnly={readOnly} editor={<QueueEditor {...cell} />}>
        {doesNothing(line) ? (
          <span className="text-soft">leave alone</span>
        ) : (
          each(line.queues, (q) => (
            <>
              {name(setup?.queues, q.queueId)}
              {q.dueInMinutes !== null && <Small>due in {minutesWords(q.dueInMinutes)}</Small>}
            </>
          ))
        )}
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
        {each(line.files, (f) => (
          <>
            <span className="break-words">{folderWords(f.folder)}</span>
            {f.onlyEndings.length > 0 && <Small>{f.onlyEndings.join(', ')} only</Small>}
          </>
        ))}
      </Cell>
      <Cell label={`Line ${i + 1}, reply`} readOnly={readOnly} editor={<ReplyEditor {...cell} />}>
        {each(line.replies, (r) => (
          <>
            {name(setup?.templates, r.templateId)}
            <Small>
              {r.mode === 'Check'
                ? 'for checking'
                : r.delayMinutes > 0
                  ? `send after ${minutesWords(r.delayMinutes)}`
                  : 'send at once'}
              {r.to === 'FirstAddressInBody' && ', to the address in the text'}
            </Small>
          </>
        ))}
      </Cell>
      <Cell label={`Line ${i + 1}, pass on`} readOnly={readOnly} editor={<PassOnEditor {...cell} />}>
        {each(line.passOns, (p) => name(setup?.destinations, p.destinationId))}
      </Cell>
      <Cell label={`Line ${i + 1}, in the mailbox`} readOnly={readOnly} editor={<MailboxEditor {...cell} />}>
        {line.inMailbox && (
          <span className="break-words">{line.inMailbox.effects.map(effectWords).join(', ')}</span>
        )}
      </Cell>
    </>
  );
}

/** The messages a line is carried out for, and those it fits while an earlier line goes first. */
function Fits({
  line,
  index,
  rehearsal,
  onOpen,
}: { line: Line; index: number; rehearsal: Rehearsal | null } & Pick<BandProps, 'onOpen'>) {
  if (!rehearsal) return <>…</>;
  const carried = rehearsal.summary.lines[line.id] ?? 0;
  const fits = rehearsal.summary.fits[line.id] ?? 0;
  return (
    <>
      <button
        className="press font-semibold hover:underline"
        onClick={() => onOpen('Line', line.id, `Line ${index + 1}`)}
        aria-label={`Messages of line ${index + 1}`}
      >
        {carried.toLocaleString('en')}
      </button>
      {fits > carried && (
        <button
          className="press block w-full text-[12px] text-soft hover:underline"
          title="Messages it fits, an earlier line going first for some"
          onClick={() => onOpen('Fits', line.id, `Line ${index + 1} fits`)}
        >
          of {fits.toLocaleString('en')}
        </button>
      )}
    </>
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
