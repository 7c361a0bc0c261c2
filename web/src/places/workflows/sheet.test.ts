import { describe, expect, it } from 'vitest';
import type { Sheet } from '@/api/types';
import {
  folderWords,
  minutesWords,
  moveTo,
  newCategory,
  newLine,
  withSorter,
  withoutCategory,
} from './sheet';

const sheet: Sheet = {
  addresses: [],
  takesIn: { all: [], any: [], none: [] },
  categories: [],
  facts: [],
  lines: [],
  everyLine: false,
  sorterId: null,
  limits: { oneReplyPerSenderHours: 24, skipLaterWorkflows: true },
};

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
    expect(moveTo(['a', 'b', 'c'], 0, 1)).toEqual(['b', 'a', 'c']);
    expect(moveTo(['a', 'b', 'c'], 2, 0)).toEqual(['c', 'a', 'b']);
    expect(moveTo(['a', 'b'], 0, -1)).toEqual(['a', 'b']);
    expect(moveTo(['a', 'b'], 1, 2)).toEqual(['a', 'b']);
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

const sorter = {
  id: 4,
  categories: [
    { id: 's1', name: 'Visitor berth' },
    { id: 's2', name: 'Fuel order' },
  ],
};

it('a sorter brings its categories and a line for what it is unsure about', () => {
  const chosen = withSorter({ ...sheet, categories: [{ ...newCategory(), id: 'k1' }] }, sorter, 8);
  expect(chosen.sorterId).toBe(4);
  expect(chosen.categories.map((c) => [c.id, c.bySorter])).toEqual([
    ['k1', false],
    ['s1', true],
    ['s2', true],
  ]);
  expect(chosen.lines.at(-1)).toMatchObject({ case: 'Unsure', queues: [{ queueId: 8 }] });
  expect(withSorter(chosen, sorter, 8).lines).toEqual(chosen.lines);
  expect(withSorter(sheet, sorter, undefined).lines.at(-1)?.queues).toEqual([]);
});

it('without the sorter its categories and lines go, those with conditions stay', () => {
  const chosen = withSorter({ ...sheet, categories: [{ ...newCategory(), id: 'k1' }] }, sorter, 8);
  const lines = [
    { ...newLine(chosen), case: 'Category' as const, categoryId: 's1' },
    { ...newLine(chosen), case: 'Category' as const, categoryId: 'k1' },
    ...chosen.lines,
  ];
  const without = withSorter({ ...chosen, lines }, null, 8);
  expect(without.sorterId).toBeNull();
  expect(without.categories.map((c) => c.id)).toEqual(['k1']);
  expect(without.lines.map((l) => l.categoryId)).toEqual(['k1']);
});
