import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve } from '@/test-api';
import { messageView, reply } from '@/test-made';
import { showAt } from '@/test-routed';
import { Replies } from './Replies';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const second = { ...reply, deedId: 42, subject: 'Re: Fuel', to: 'bo@quay.example' };
const counts = { checking: 2, scheduled: 1, sent: 9, stuck: 0, stopped: 3 };

function open(replies = [reply, second]) {
  const calls = serve({
    'GET /api/replies': { replies, ...counts },
    'GET /api/messages/7': messageView(),
  });
  const router = showAt('/replies', '/replies', Replies);
  return { calls, router };
}

it('the first reply is open beside the message it answers, and the arrows go on', async () => {
  const { router } = open();
  const sheet = await screen.findByRole('region', { name: 'Reply' });
  expect(within(sheet).getByText('Reply waits for checking')).toBeVisible();
  expect(within(sheet).getByText('Dear Ann Skipper, berth 12 is yours.')).toBeVisible();
  expect(await screen.findByText(/we need a berth for a week/)).toBeVisible();
  await userEvent.keyboard('{ArrowDown}');
  await vi.waitFor(() => expect((router.state.location.search as { deed?: number }).deed).toBe(42));
});

it('one key sends what was checked', async () => {
  const { calls } = open();
  await screen.findByRole('region', { name: 'Reply' });
  await userEvent.keyboard('s');
  await vi.waitFor(() =>
    expect(calls.some((c) => c.method === 'POST' && c.path === '/api/replies/41/send')).toBe(true),
  );
});

it('the tabs ask for the others, and each says what it means to be empty', async () => {
  const { calls } = open([]);
  expect(await screen.findByText(/No reply waits for checking/)).toBeVisible();
  await userEvent.click(screen.getByRole('tab', { name: 'Stopped 3' }));
  await vi.waitFor(() => expect(calls.some((c) => c.path.includes('show=Stopped'))).toBe(true));
  expect(await screen.findByText('No reply has been stopped.')).toBeVisible();
});

it('a reply that may have gone out says so, and a stopped one can wait again', async () => {
  const { calls } = open([{ ...reply, state: 'Dropped', uncertain: true }]);
  expect(await screen.findByText(/the recipient may already have it/)).toBeVisible();
  await userEvent.click(await screen.findByRole('button', { name: 'Let it wait for checking again' }));
  await vi.waitFor(() => expect(calls.some((c) => c.path === '/api/replies/41/take-back')).toBe(true));
});
