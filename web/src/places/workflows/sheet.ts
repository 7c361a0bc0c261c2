import type {
  AutomaticKind,
  Category,
  Condition,
  ConditionSet,
  Line,
  MatchTest,
  MessagePart,
  Sheet,
} from '@/api/types';

/** An id that stays with its condition, category or line through all editions. */
export function newId(prefix: string): string {
  return `${prefix}${crypto.randomUUID().slice(0, 8)}`;
}

export const emptySet: ConditionSet = { all: [], any: [], none: [] };

export type Group = keyof ConditionSet;

export const groupWords: Record<Group, string> = { all: 'all of', any: 'any of', none: 'unless' };

export const partWords: Record<MessagePart, string> = {
  SubjectOrBody: 'subject or body',
  Subject: 'subject',
  Body: 'body',
  Sender: 'sender',
  Recipient: 'a recipient',
  AttachmentName: 'an attachment’s name',
  Attachment: 'there is an attachment',
  Automatic: 'it is automatic mail',
};

export const testWords: Record<MatchTest, string> = {
  HasAnyWordIn: 'has any word in',
  Contains: 'contains',
  Is: 'is',
  Matches: 'fits the pattern',
  Present: '',
};

export const kindWords: Record<AutomaticKind, string> = {
  Bounce: 'bounce',
  AbsenceNotice: 'absence notice',
  MailingList: 'mailing list',
  Bulk: 'bulk',
  Generated: 'generated',
};

/** Whether a part is compared with something, or is simply there or not. */
export function isPresence(part: MessagePart): boolean {
  return part === 'Attachment' || part === 'Automatic';
}

export function newCondition(): Condition {
  return {
    id: newId('c'),
    part: 'SubjectOrBody',
    test: 'Contains',
    values: [],
    keywordListId: null,
    kinds: [],
  };
}

/** The condition with another part; what no longer makes sense is dropped. */
export function withPart(condition: Condition, part: MessagePart): Condition {
  if (isPresence(part))
    return { ...condition, part, test: 'Present', values: [], keywordListId: null, kinds: [] };
  return { ...condition, part, test: condition.test === 'Present' ? 'Contains' : condition.test, kinds: [] };
}

export function newCategory(): Category {
  return { id: newId('k'), name: 'New category', when: { ...emptySet, any: [newCondition()] } };
}

export function newLine(sheet: Sheet): Line {
  const used = new Set(sheet.lines.map((l) => l.categoryId));
  const category = sheet.categories.find((c) => !used.has(c.id));
  return {
    id: newId('l'),
    case: category ? 'Category' : 'Any',
    categoryId: category?.id ?? null,
    andWhen: emptySet,
    queue: null,
    ticket: null,
    files: null,
    reply: null,
    passOn: null,
    inMailbox: null,
  };
}

export function replaceAt<T>(list: T[], index: number, item: T): T[] {
  return list.map((x, i) => (i === index ? item : x));
}

export function removeAt<T>(list: T[], index: number): T[] {
  return list.filter((_, i) => i !== index);
}

export function moveBy<T>(list: T[], index: number, by: number): T[] {
  const moved = [...list];
  const [item] = moved.splice(index, 1);
  moved.splice(index + by, 0, item!);
  return moved;
}

/** Removing a category takes its lines with it. */
export function withoutCategory(sheet: Sheet, id: string): Sheet {
  return {
    ...sheet,
    categories: sheet.categories.filter((c) => c.id !== id),
    lines: sheet.lines.filter((l) => l.categoryId !== id),
  };
}

export function isEmptySet(set: ConditionSet): boolean {
  return set.all.length + set.any.length + set.none.length === 0;
}

/** Values as people type them: separated by commas; a backslash keeps a comma. */
export function readValues(text: string): string[] {
  return text
    .split(/(?<!\\),/)
    .map((v) => v.replaceAll('\\,', ',').trim())
    .filter((v) => v !== '');
}

export function writeValues(values: string[]): string {
  return values.map((v) => v.replaceAll(',', '\\,')).join(', ');
}

export function minutesWords(minutes: number): string {
  if (minutes % 1440 === 0 && minutes >= 1440) return `${minutes / 1440} d`;
  if (minutes % 60 === 0 && minutes >= 60) return `${minutes / 60} h`;
  return `${minutes} min`;
}

/** A folder pattern for reading: a filled-in value by its name, a date by its parts. */
export function folderWords(pattern: string): string {
  const readable = pattern.replace(
    /\{\{\s*(\w+)\s*(?:\|\s*date:\s*"([^"]*)")?[^}]*\}\}/g,
    (_, name: string, format?: string) =>
      format
        ? format.replaceAll('%Y', 'year').replaceAll('%m', 'month').replaceAll('%d', 'day')
        : `‹${name.replaceAll('_', ' ')}›`,
  );
  return readable === '' ? '(top)' : readable.replaceAll('/', '/\u200b');
}
