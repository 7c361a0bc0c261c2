import type { Category, Line, Sheet } from '@/api/types';
import { emptySet, newCondition, newId } from './conditions';

export function newCategory(): Category {
  return {
    id: newId('k'),
    name: 'New category',
    bySorter: false,
    when: { ...emptySet, any: [newCondition()] },
  };
}

export function newLine(sheet: Sheet): Line {
  const used = new Set(sheet.lines.map((l) => l.categoryId));
  const category = sheet.categories.find((c) => !used.has(c.id));
  return {
    id: newId('l'),
    case: category ? 'Category' : 'Any',
    categoryId: category?.id ?? null,
    suretyFrom: null,
    andWhen: emptySet,
    queues: [],
    ticket: null,
    files: [],
    replies: [],
    passOns: [],
    inMailbox: null,
    off: false,
    note: null,
  };
}

export function replaceAt<T>(list: T[], index: number, item: T): T[] {
  return list.map((x, i) => (i === index ? item : x));
}

export function removeAt<T>(list: T[], index: number): T[] {
  return list.filter((_, i) => i !== index);
}

/** The list with an item taken to another place; a place beyond the ends changes nothing. */
export function moveTo<T>(list: T[], from: number, to: number): T[] {
  if (to < 0 || to >= list.length || from === to) return list;
  const moved = [...list];
  const [item] = moved.splice(from, 1);
  moved.splice(to, 0, item!);
  return moved;
}

/** Whether a line carries nothing out. */
export function doesNothing(line: Line): boolean {
  return (
    line.queues.length + line.files.length + line.replies.length + line.passOns.length === 0 &&
    !line.ticket &&
    !line.inMailbox?.effects.length
  );
}

/** What a sorter is called for a sheet: the sorter and its categories. */
interface Choice {
  id: number;
  categories: { id: string; name: string }[];
}

/**
 * The sheet with another sorter, or none. Its categories join those with conditions; what it is unsure about goes to the
 * queue for sorting by hand, where there is one.
 */
export function withSorter(sheet: Sheet, sorter: Choice | null, byHand: number | undefined): Sheet {
  const kept = sheet.categories.filter((c) => !c.bySorter);
  const gone = new Set(sheet.categories.filter((c) => c.bySorter).map((c) => c.id));
  if (!sorter)
    return {
      ...sheet,
      sorterId: null,
      categories: kept,
      lines: sheet.lines.filter((l) => l.case !== 'Unsure' && !gone.has(l.categoryId ?? '')),
    };
  const categories = [
    ...kept,
    ...sorter.categories.map((c) => ({ id: c.id, name: c.name, bySorter: true, when: emptySet })),
  ];
  const stays = new Set(categories.map((c) => c.id));
  const lines = sheet.lines.filter((l) => !gone.has(l.categoryId ?? '') || stays.has(l.categoryId ?? ''));
  if (!lines.some((l) => l.case === 'Unsure')) {
    const unsure = newLine(sheet);
    lines.push({
      ...unsure,
      case: 'Unsure',
      categoryId: null,
      queues: byHand === undefined ? [] : [{ queueId: byHand, dueInMinutes: null }],
    });
  }
  return { ...sheet, sorterId: sorter.id, categories, lines };
}

/** Removing a category takes its lines with it. */
export function withoutCategory(sheet: Sheet, id: string): Sheet {
  return {
    ...sheet,
    categories: sheet.categories.filter((c) => c.id !== id),
    lines: sheet.lines.filter((l) => l.categoryId !== id),
  };
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
