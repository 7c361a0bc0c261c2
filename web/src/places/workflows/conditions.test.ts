import { describe, expect, it } from 'vitest';
import {
  isEmptySet,
  leavesOf,
  newCondition,
  partGroups,
  partWords,
  readValues,
  withPart,
  writeValues,
} from './conditions';

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
    expect(withPart(compared, 'Attachment', ['Present', 'Absent'])).toMatchObject({
      test: 'Present',
      values: [],
      keywordListId: null,
    });
    expect(
      withPart(withPart(compared, 'Automatic', ['Present', 'Absent']), 'Subject', ['Contains', 'Is']),
    ).toMatchObject({
      test: 'Contains',
      kinds: [],
    });
  });

  it('each have an id of their own', () =>
    expect(new Set(Array.from({ length: 100 }, () => newCondition().id)).size).toBe(100));
});

it('every part is offered once', () => {
  const offered = partGroups.flatMap((g) => g.parts);
  expect([...offered].sort()).toEqual(Object.keys(partWords).sort());
});

it('the conditions of a group are counted one by one', () => {
  const group = {
    ...newCondition(),
    part: 'Group' as const,
    set: { all: [newCondition()], any: [newCondition()], none: [] },
  };
  expect(leavesOf({ all: [newCondition(), group], any: [], none: [] })).toHaveLength(3);
  expect(isEmptySet({ all: [], any: [], none: [] })).toBe(true);
});
