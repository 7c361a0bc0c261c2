import { describe, expect, it } from 'vitest';
import { cut, recipients, type Mark } from './evidence';

const mark = (start: number, length: number, reason = 0): Mark => ({
  reason,
  evidence: { place: 'Body', start, length, text: '', index: 0 },
});

describe('cutting a text at its marks', () => {
  const text = 'please find a berth for us';

  it('gives the text back whole', () => {
    for (const marks of [[], [mark(14, 5)], [mark(0, 26), mark(14, 5, 1)], [mark(7, 12), mark(14, 9, 1)]]) {
      expect(
        cut(text, 0, text.length, marks)
          .map((p) => p.text)
          .join(''),
      ).toBe(text);
    }
  });

  it('marks the words and nothing else', () =>
    expect(cut(text, 0, text.length, [mark(14, 5)]).map((p) => [p.text, p.reasons])).toEqual([
      ['please find a ', []],
      ['berth', [0]],
      [' for us', []],
    ]));

  it('knows every reason where marks overlap', () =>
    expect(cut('abcd', 0, 4, [mark(0, 3, 0), mark(2, 2, 1)]).map((p) => [p.text, p.reasons])).toEqual([
      ['ab', [0]],
      ['c', [0, 1]],
      ['d', [1]],
    ]));

  it('keeps to its stretch', () =>
    expect(cut('abcdef', 2, 4, [mark(0, 3)]).map((p) => [p.text, p.reasons])).toEqual([
      ['c', [0]],
      ['d', []],
    ]));
});

it('recipients stand in the order in which decisions count them', () => {
  const message = {
    to: [{ name: 'A', address: 'a@x.example' }],
    cc: [{ name: '', address: 'A@x.example' }],
    originallyTo: ['b@x.example', 'a@x.example'],
  };
  expect(recipients(message as never).map((r) => r.address)).toEqual(['a@x.example', 'b@x.example']);
});
