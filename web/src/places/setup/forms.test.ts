import { expect, it } from 'vitest';
import { splitWords } from './forms';

it.each([
  ['berth\nmooring', ['berth', 'mooring']],
  ['berth, mooring; buoy', ['berth', 'mooring', 'buoy']],
  ['  finger berth  \n\n,;', ['finger berth']],
])('pasted words are split at breaks, commas and semicolons: %j', (text, words) =>
  expect(splitWords(text)).toEqual(words),
);
