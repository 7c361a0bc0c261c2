import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import type { SorterOverTime, SorterRow } from '@/api/types';
import { serve, show } from '@/test-api';
import { showAt } from '@/test-routed';
import { view } from './made';
import { Numbers } from './Numbers';
import { OverTime } from './OverTime';
import { Sorters } from './Sorters';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const share = (value: number, of = 100) => ({
  value,
  of,
  count: value * of,
  low: value - 0.02,
  high: value + 0.02,
});
const row = {
  id: 4,
  name: 'Harbour desk',
  inUse: 1,
  inHand: 2,
  categories: 7,
  examples: 1396,
  decided: share(0.88),
  right: share(0.97),
  usedBy: ['Everything else'],
} as unknown as SorterRow;

it('each sorter says what is in use, how much it decides and how much of that is right', async () => {
  const fresh = {
    ...row,
    id: 5,
    name: 'New one',
    inUse: null,
    inHand: 1,
    decided: share(0, 0),
    right: null,
    usedBy: [],
  };
  serve({ 'GET /api/sorters': [row, fresh] });
  showAt('/workflows', '/workflows', Sorters);
  const first = (await screen.findByRole('link', { name: 'Harbour desk' })).closest('tr')!;
  expect([...first.querySelectorAll('td')].map((c) => c.textContent)).toEqual([
    'Harbour desk',
    '1 in use2 in hand',
    '7',
    '1,396',
    '88 %',
    '97 %',
    'Everything else',
  ]);
  const second = screen.getByRole('link', { name: 'New one' }).closest('tr')!;
  expect(within(second).getByText('none in use')).toBeVisible();
  expect(within(second).getAllByText('—')).toHaveLength(3);
});

it('a new one begins with a name, and a name that is taken says so', async () => {
  serve({ 'GET /api/sorters': [], 'POST /api/sorters': { id: 9 } });
  const router = showAt('/workflows', '/workflows', Sorters);
  expect(await screen.findByText(/There is no sorter yet/)).toBeVisible();
  await userEvent.click(await screen.findByRole('button', { name: 'Begin a sorter' }));
  await userEvent.type(await screen.findByLabelText('Name'), 'Invoices');
  await userEvent.click(screen.getByRole('button', { name: 'Begin' }));
  await vi.waitFor(() => expect(router.state.location.pathname).toBe('/workflows/sorters/9'));
  cleanup();
  serve({
    'GET /api/sorters': [],
    'POST /api/sorters': new Error('There is a sorter of that name already.'),
  });
  showAt('/workflows', '/workflows', Sorters);
  await userEvent.click(await screen.findByRole('button', { name: 'Begin a sorter' }));
  await userEvent.type(await screen.findByLabelText('Name'), 'Invoices');
  await userEvent.click(screen.getByRole('button', { name: 'Begin' }));
  expect(await screen.findByText(/a sorter of that name already/)).toBeVisible();
});

it('a number that was in use can be used again, and the one in hand dropped', async () => {
  const calls = serve({ 'POST /api/sorters/4/discard': {} });
  const [hand, use] = view.numbers;
  const past = {
    ...use!,
    number: 1,
    state: 'Past' as const,
    usedSince: '2026-11-01T09:00:00Z',
    usedUntil: '2026-11-10T09:00:00Z',
  };
  const onUse = vi.fn();
  const numbers = [
    { ...hand!, number: 3, state: 'InHand' as const },
    { ...use!, number: 2, state: 'InUse' as const },
    past,
  ];
  show(<Numbers view={{ ...view, numbers }} open onClose={() => undefined} onUse={onUse} />);
  const items = await screen.findAllByRole('listitem');
  expect(items).toHaveLength(3);
  expect(within(items[0]!).getByText(/Trained on 100 examples in 0.8 s/)).toBeVisible();
  expect(within(items[2]!).getByText(/In use from .* until /)).toBeVisible();
  await userEvent.click(await screen.findByRole('button', { name: 'Use it again' }));
  expect(onUse).toHaveBeenCalledWith(1);
  await userEvent.click(screen.getByRole('button', { name: 'Drop it' }));
  await vi.waitFor(() => expect(calls.some((c) => c.path === '/api/sorters/4/discard')).toBe(true));
});

const week = (
  monday: string,
  categoryId: string | null,
  decided: number,
  corrected: number,
  unsure: number,
) => ({
  monday,
  categoryId,
  decided,
  corrected,
  unsure,
});

it('corrections are counted by week and category, and mail that has changed is told of', async () => {
  const time = {
    weeks: [
      week('2026-11-09', 'berth', 20, 1, 0),
      week('2026-11-16', 'berth', 18, 6, 0),
      week('2026-11-16', 'fuel', 9, 0, 0),
      week('2026-11-16', null, 0, 0, 5),
    ],
    drift: { moreMistakes: true, moreDoubt: true, corrected: share(0.15), unsure: share(0.3) },
  } as unknown as SorterOverTime;
  serve({ 'GET /api/sorters/4/over-time': time });
  show(<OverTime view={view} />);
  expect(await screen.findByText(/Mail has changed: 15 %/)).toBeVisible();
  expect(screen.getByText(/unsure about 30 %/)).toBeVisible();
  const cells = (name: string) =>
    [...screen.getByRole('cell', { name }).closest('tr')!.querySelectorAll('td')]
      .slice(1)
      .map((c) => c.textContent);
  expect(cells('Visitor berth')).toEqual(['1 of 20', '6 of 18']);
  expect(cells('Fuel order')).toEqual(['—', '0 of 9']);
  expect(cells('Unsure')).toEqual(['—', '5']);
});
