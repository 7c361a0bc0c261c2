import { describe, expect, it } from 'vitest';
import type { Sheet } from '@/api/types';
import {
  folderWords,
  minutesWords,
  moveBy,
  newCategory,
  newCondition,
  newLine,
  readValues,
  withoutCategory,
  withPart,
  writeValues,
} from './sheet';

const sheet: Sheet = {
  addresses: [],
  takesIn: { all: [], any: [], none: [] },
  categories: [],
  facts: [],
  lines: [],
  limits: { oneReplyPerSenderHours: 24, skipLaterWorkflows: true },
};

describe('values as people type them', () => {
  it.each([
    ['berth, mooring', ['berth', 'mooring']],
    [' berth ,, ', ['berth']],
    ['Vane\\, Daughters', ['Vane, Daughters']],
    ['', []],
  ])('%j is read as %j', (text, values) => expect(readValues(text)).toEqual(values));

  it('what is written is read again as it was', () => {
    for (const values of [['a'], ['a, b', 'c'], ['x', 'y', 'z']])
      expect(readValues(writeValues(values))).toEqual(values);
  });
});

describe('conditions', () => {
  it('lose what no longer makes sense when they look at something else', () => {
    const compared = { ...newCondition(), values: ['x'], keywordListId: 3 };
    expect(withPart(compared, 'Attachment')).toMatchObject({
      test: 'Present',
      values: [],
      keywordListId: null,
    });
    expect(withPart(withPart(compared, 'Automatic'), 'Subject')).toMatchObject({
      test: 'Contains',
      kinds: [],
    });
  });

  it('each have an id of their own', () =>
    expect(new Set(Array.from({ length: 100 }, () => newCondition().id)).size).toBe(100));
});

describe('lines', () => {
  it('a new one is for the first category without a line, else for anything', () => {
    const category = newCategory();
    const withOne = { ...sheet, categories: [category] };
    const line = newLine(withOne);
    expect(line).toMatchObject({ case: 'Category', categoryId: category.id });
    expect(newLine({ ...withOne, lines: [line] })).toMatchObject({ case: 'Any', categoryId: null });
  });

  it('go with their category', () => {
    const category = newCategory();
    const full = {
      ...sheet,
      categories: [category],
      lines: [newLine({ ...sheet, categories: [category] }), newLine(sheet)],
    };
    const left = withoutCategory(full, category.id);
    expect(left.categories).toEqual([]);
    expect(left.lines.map((l) => l.case)).toEqual(['Any']);
  });

  it('are moved without losing any', () => {
    expect(moveBy(['a', 'b', 'c'], 0, 1)).toEqual(['b', 'a', 'c']);
    expect(moveBy(['a', 'b', 'c'], 2, -2)).toEqual(['c', 'a', 'b']);
  });
});

it.each([
  [30, '30 min'],
  [120, '2 h'],
  [90, '90 min'],
  [2880, '2 d'],
])('%i minutes are said as %s', (minutes, text) => expect(minutesWords(minutes)).toBe(text));

it('a folder pattern reads as what it becomes', () => {
  expect(folderWords('Slips/{{ arrived | date: "%Y/%m" }}').replaceAll('\u200b', '')).toBe(
    'Slips/year/month',
  );
  expect(folderWords('{{ sender_name }}')).toBe('‹sender name›');
  expect(folderWords('')).toBe('(top)');
});
