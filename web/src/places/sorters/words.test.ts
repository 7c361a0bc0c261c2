import { expect, it } from 'vitest';
import { percent } from '@/parts/percent';
import { keyOf } from '@/parts/SuretyList';
import { examples, interval, nameOf } from './words';
import { view } from './made';

it('shares near the whole keep a decimal, so that almost all is not taken for all', () => {
  expect(percent(0.884)).toBe('88 %');
  expect(percent(0.996)).toBe('99.6 %');
  expect(percent(1)).toBe('100 %');
  expect(interval({ of: 20, value: 0.5, low: 0.2999, high: 0.7001 })).toBe('30.0 to 70.0');
});

it('categories are called by their names, and nothing is none of these', () => {
  expect(nameOf(view.settings, 'fuel')).toBe('Fuel order');
  expect(nameOf(view.settings, null)).toBe('None of these');
  expect(nameOf(view.settings, '')).toBe('None of these');
  expect(nameOf(view.settings, 'x')).toBe('a category that is gone');
});

it('nine categories have a key, none of these has 0', () => {
  expect([keyOf(0, 'a'), keyOf(8, 'i'), keyOf(9, 'j'), keyOf(3, null)]).toEqual(['1', '9', null, '0']);
  expect(examples(1)).toBe('1 example');
});
