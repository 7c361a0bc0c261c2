import { describe, expect, it } from 'vitest';
import { bytes, dueGroup, timeLeft, when } from './time';

const now = new Date(2026, 10, 25, 14, 0, 0);
const at = (minutes: number) => new Date(now.getTime() + minutes * 60000).toISOString();

describe('due times', () => {
  it.each([
    [-1, 'Overdue'],
    [0, 'Within the hour'],
    [60, 'Within the hour'],
    [61, 'Later today'],
    [9 * 60 + 59, 'Later today'],
    [10 * 60, 'Tomorrow'],
    [34 * 60, 'Later'],
  ])('%i minutes from now is %s', (minutes, group) => expect(dueGroup(at(minutes), now)).toBe(group));

  it('an item without one has a group of its own', () => expect(dueGroup(null, now)).toBe('No due time'));

  it.each([
    [38, '38 m'],
    [125, '2 h 05'],
    [-80, '−1 h 20'],
    [0, '0 m'],
  ])('%i minutes are shown as %s', (minutes, text) => expect(timeLeft(at(minutes), now)).toBe(text));

  it('far ones are shown as a date', () => expect(timeLeft(at(72 * 60), now)).toBe('28 Nov'));
});

it('a time today is a clock time, others carry their date', () => {
  expect(when(new Date(2026, 10, 25, 9, 12), now)).toBe('09:12');
  expect(when(new Date(2026, 10, 24, 9, 12), now)).toBe('24 Nov 09:12');
  expect(when(new Date(2025, 10, 24, 9, 12), now)).toBe('24 Nov 2025 09:12');
});

it.each([
  [999, '999 B'],
  [184_000, '184 kB'],
  [2_500_000, '2.5 MB'],
])('%i bytes are %s', (size, text) => expect(bytes(size)).toBe(text));
