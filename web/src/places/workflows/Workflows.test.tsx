import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import type { WorkflowRow } from '@/api/types';
import { me, serve } from '@/test-api';
import { showAt } from '@/test-routed';
import { Workflows } from './Workflows';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const row: WorkflowRow = {
  id: 3,
  name: 'Berth requests',
  position: 0,
  paused: false,
  liveEdition: 4,
  liveSince: '2026-11-20T09:00:00Z',
  editionInHand: 5,
  addresses: ['berths@saltmarrow.example'],
  lines: 3,
  takenInLastWeek: 41,
  deedsLastWeek: 90,
  stuckDeeds: 0,
};
const fuel: WorkflowRow = {
  ...row,
  id: 4,
  name: 'Fuel orders',
  liveEdition: null,
  liveSince: null,
  editionInHand: 1,
  addresses: [],
  takenInLastWeek: 0,
  deedsLastWeek: 0,
  stuckDeeds: 7,
};

function open(rows: WorkflowRow[] = [row, fuel], more: Record<string, unknown> = {}) {
  const calls = serve({
    'GET /api/workflows': rows,
    'GET /api/sorters': [],
    'GET /api/workflows/overlaps': { pairs: [], messages: 0 },
    'POST /api/workflows': { id: 9 },
    ...more,
  });
  const router = showAt('/workflows', '/workflows', Workflows);
  return { calls, router };
}

it('each workflow says what it takes, which edition is live, and how it fares', async () => {
  open();
  const first = (await screen.findByRole('link', { name: 'Berth requests' })).closest('tr')!;
  expect(within(first).getByText('4 live since 20 Nov')).toBeVisible();
  expect(within(first).getByText('5 in hand')).toBeVisible();
  expect(within(first).getByText('berths')).toBeVisible();
  expect(within(first).getByRole('link', { name: '41' })).toHaveAttribute('href', '/mail?workflow=3');
  const second = screen.getByRole('link', { name: 'Fuel orders' }).closest('tr')!;
  expect(within(second).getByText('never live')).toBeVisible();
  expect(within(second).getByText('every address')).toBeVisible();
  expect(within(second).getByText('7')).toHaveClass('text-rust');
});

it('one is paused and goes on', async () => {
  const { calls } = open([row, { ...fuel, paused: true }]);
  await userEvent.click(await screen.findByRole('button', { name: 'Pause' }));
  await vi.waitFor(() =>
    expect(calls.some((c) => c.path === '/api/workflows/3/paused?paused=true')).toBe(true),
  );
  await userEvent.click(screen.getByRole('button', { name: 'Go on' }));
  await vi.waitFor(() =>
    expect(calls.some((c) => c.path === '/api/workflows/4/paused?paused=false')).toBe(true),
  );
});

it('the order is changed from the keyboard', async () => {
  const { calls } = open();
  const handle = within(
    (await screen.findByRole('link', { name: 'Berth requests' })).closest('tr')!,
  ).getByRole('button', { name: /Berth requests/ });
  handle.focus();
  await userEvent.keyboard('{ArrowDown}');
  await vi.waitFor(() =>
    expect(calls.find((c) => c.method === 'PUT')).toMatchObject({
      path: '/api/workflows/order',
      body: { ids: [4, 3] },
    }),
  );
});

it('a new one begins with a name, and its sheet opens', async () => {
  const { calls, router } = open();
  await userEvent.click(await screen.findByRole('button', { name: 'Begin a workflow' }));
  const panel = await screen.findByRole('dialog', { name: 'Begin a workflow' });
  expect(within(panel).getByRole('button', { name: 'Begin' })).toBeDisabled();
  await userEvent.type(within(panel).getByLabelText('Name'), 'Lost property');
  await userEvent.click(within(panel).getByRole('button', { name: 'Begin' }));
  await vi.waitFor(() =>
    expect(calls.find((c) => c.method === 'POST')?.body).toEqual({ name: 'Lost property' }),
  );
  await vi.waitFor(() => expect(router.state.location.pathname).toBe('/workflows/9'));
});

it('without any, it says what a workflow is; without the permission nothing can be begun', async () => {
  open([]);
  expect(await screen.findByText('There is no workflow yet')).toBeVisible();
  cleanup();
  open([row], { 'GET /api/me': { ...me, permissions: ['desk'] } });
  await screen.findByRole('link', { name: 'Berth requests' });
  expect(screen.queryByRole('button', { name: 'Begin a workflow' })).toBeNull();
  expect(screen.queryByRole('button', { name: 'Pause' })).toBeNull();
});
