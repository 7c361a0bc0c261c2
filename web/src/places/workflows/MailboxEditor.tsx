import type { MailboxEffect } from '@/api/types';
import { TextField } from '@/parts/Field';
import type { EditorProps } from './LineEditors';

type Kind = MailboxEffect['kind'];

const choices: { label: string; kinds: [Kind, string][] }[] = [
  {
    label: 'Read mark',
    kinds: [
      ['MarkRead', 'mark as read'],
      ['MarkUnread', 'mark as unread'],
    ],
  },
  {
    label: 'Flag',
    kinds: [
      ['SetFlag', 'set the flag'],
      ['ClearFlag', 'clear the flag'],
    ],
  },
];

/** What is done to the message where it lies, on the mail server it was read from. */
export function MailboxEditor({ line, onChange }: EditorProps) {
  const effects = line.inMailbox?.effects ?? [];
  const put = (next: MailboxEffect[]) =>
    onChange({ ...line, inMailbox: next.length > 0 ? { effects: next } : null });
  const named = (kind: Kind) => effects.find((e) => e.kind === kind)?.name ?? '';
  const without = (...kinds: Kind[]) => effects.filter((e) => !kinds.includes(e.kind));
  const place = effects.some((e) => e.kind === 'Archive')
    ? 'Archive'
    : effects.some((e) => e.kind === 'Move')
      ? 'Move'
      : '';
  return (
    <>
      {choices.map(({ label, kinds }) => (
        <label key={label} className="mb-3 block">
          <span className="caps mb-1 block">{label}</span>
          <select
            className="boxed w-full"
            value={kinds.find(([k]) => effects.some((e) => e.kind === k))?.[0] ?? ''}
            onChange={(e) => {
              const rest = without(...kinds.map(([k]) => k));
              put(e.target.value ? [...rest, { kind: e.target.value as Kind, name: null }] : rest);
            }}
          >
            <option value="">leave as it is</option>
            {kinds.map(([k, words]) => (
              <option key={k} value={k}>
                {words}
              </option>
            ))}
          </select>
        </label>
      ))}
      <TextField
        label="Set the keyword"
        value={named('SetKeyword')}
        hint="A word the server keeps with the message; other mail programs show it."
        onChange={(e) =>
          put(
            e.target.value.trim()
              ? [...without('SetKeyword'), { kind: 'SetKeyword', name: e.target.value.trim() }]
              : without('SetKeyword'),
          )
        }
      />
      <label className="mb-3 block">
        <span className="caps mb-1 block">Place</span>
        <select
          className="boxed w-full"
          value={place}
          onChange={(e) => {
            const rest = without('Move', 'Archive');
            put(
              e.target.value
                ? [...rest, { kind: e.target.value as Kind, name: e.target.value === 'Move' ? 'Done' : null }]
                : rest,
            );
          }}
        >
          <option value="">leave it where it is</option>
          <option value="Move">move to a folder</option>
          <option value="Archive">move to the archive</option>
        </select>
      </label>
      {place === 'Move' && (
        <TextField
          label="Folder"
          value={named('Move')}
          hint="Levels are separated by “/”. One that is not there yet is made."
          onChange={(e) => put([...without('Move'), { kind: 'Move', name: e.target.value }])}
        />
      )}
    </>
  );
}

/** An effect in a few words, for the cell. */
export function effectWords(e: MailboxEffect): string {
  switch (e.kind) {
    case 'MarkRead':
      return 'read';
    case 'MarkUnread':
      return 'unread';
    case 'SetFlag':
      return 'flag';
    case 'ClearFlag':
      return 'no flag';
    case 'SetKeyword':
      return `keyword ${e.name}`;
    case 'ClearKeyword':
      return `no keyword ${e.name}`;
    case 'Move':
      return `to ${e.name}`;
    case 'Archive':
      return 'to the archive';
  }
}
