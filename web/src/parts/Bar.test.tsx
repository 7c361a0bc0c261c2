import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { me, serve } from '@/test-api';
import { queue } from '@/test-made';
import { showAt } from '@/test-routed';
import { Bar } from './Bar';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  delete document.documentElement.dataset.theme;
});

function open(more: Partial<typeof me> = {}) {
  const calls = serve({
    'GET /api/today': {
      queues: [queue, { ...queue, id: 2, open: 3 }],
      needsPerson: [{ kind: 'checking', count: 4 }],
    },
  });
  const router = showAt('/queues', '/queues', () => <Bar me={{ ...me, ...more }} />);
  return { calls, router };
}

it('the eight places are there, and what waits in them', async () => {
  open();
  const places = await screen.findByRole('navigation', { name: 'Places' });
  expect(within(places).getAllByRole('link')).toHaveLength(8);
  expect(await within(places).findByRole('link', { name: 'Queues 5' })).toHaveAttribute(
    'aria-current',
    'page',
  );
  expect(within(places).getByRole('link', { name: 'Replies 4' })).toBeVisible();
});

it('a stroke goes to the search; words find mail, a reference opens its ticket', async () => {
  const { router } = open();
  const find = await screen.findByRole('searchbox');
  await userEvent.keyboard('/');
  expect(find).toHaveFocus();
  await userEvent.type(find, 'small boat{Enter}');
  await vi.waitFor(() =>
    expect(router.state.location).toMatchObject({ pathname: '/mail', search: { text: 'small boat' } }),
  );
  cleanup();
  const again = open();
  await userEvent.type(await screen.findByRole('searchbox'), ' sh-104{Enter}');
  await vi.waitFor(() => expect(again.router.state.location.pathname).toBe('/tickets/SH-104'));
});

it('the person chooses how it looks, sees the keys, and signs out', async () => {
  const { calls } = open();
  await userEvent.click(await screen.findByRole('button', { name: 'Nell' }));
  expect(screen.getByText('builder, desk, checker, keeper')).toBeVisible();
  expect(screen.queryByText('Practice stand-ins (demo)')).toBeNull();
  await userEvent.click(screen.getByRole('menuitemradio', { name: /Night watch/ }));
  expect(document.documentElement.dataset.theme).toBe('dark');
  await userEvent.keyboard('?');
  expect(await screen.findByRole('dialog')).toBeVisible();
  await userEvent.keyboard('{Escape}');
  await userEvent.click(screen.getByRole('button', { name: 'Nell' }));
  await userEvent.click(screen.getByRole('menuitem', { name: 'Sign out' }));
  await vi.waitFor(() =>
    expect(calls.some((c) => c.method === 'POST' && c.path === '/api/sign-out')).toBe(true),
  );
});

it('the practice pages are offered where there are some', async () => {
  open({ practiceAddress: 'http://127.0.0.1:7181' });
  await userEvent.click(await screen.findByRole('button', { name: 'Nell' }));
  expect(screen.getByRole('menuitem', { name: 'Practice stand-ins (demo)' })).toHaveAttribute(
    'href',
    'http://127.0.0.1:7181',
  );
});
