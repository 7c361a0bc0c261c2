import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { me, serve } from '@/test-api';
import { deed, item, messageView, queue } from '@/test-made';
import { showAt } from '@/test-routed';
import { Queues } from './Queues';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const second = { ...item, id: 22, messageId: 8, subject: 'Another berth' };
const entries = [
  { id: 1, kind: 'Opened', at: item.placedAt, person: null, text: 'Placed in Berthing desk', messageId: 7 },
];

function open(more: Record<string, unknown> = {}, address = '/queues') {
  const calls = serve({
    'GET /api/queues': [queue, { ...queue, id: 2, name: 'Large berths', open: 0 }],
    'GET /api/queues/1/items': {
      id: 1,
      name: 'Berthing desk',
      now: item.placedAt,
      items: [item, second],
      doneToday: 3,
    },
    'GET /api/messages/7': messageView({
      deeds: [deed],
      items: [{ item, queueName: 'Berthing desk', entries }] as never,
    }),
    'GET /api/messages/8': messageView(),
    'GET /api/messages/7/sorting': [],
    'GET /api/messages/8/sorting': [],
    ...more,
  });
  const router = showAt('/queues', address, Queues);
  return { calls, router, posted: () => calls.filter((c) => c.method === 'POST') };
}

it('the first item is open, with its message, reasons, deeds and what happened', async () => {
  open();
  const desk = await screen.findByRole('complementary', { name: 'Desk' });
  expect(screen.getByText('3 done today')).toBeVisible();
  expect(within(desk).getByText('Reasons, Berth requests 4')).toBeVisible();
  expect(within(desk).getByText('place in Berthing desk')).toBeVisible();
  expect(within(desk).getByText('Placed in Berthing desk')).toBeVisible();
  const message = screen.getByRole('region', { name: 'Message' });
  expect(within(message).getByRole('heading', { level: 1 })).toHaveTextContent('A berth for a week');
  expect(within(message).getByText('berth').tagName).toBe('MARK');
  expect(within(message).queryByText(/an earlier question/)).toBeNull();
  await userEvent.click(within(message).getByText('Show quoted text and signature'));
  expect(within(message).getByText(/an earlier question/)).toBeVisible();
});

it('an item is taken and done by keys; done goes on to the next and can be undone', async () => {
  const { posted, router } = open();
  await screen.findByRole('complementary', { name: 'Desk' });
  await userEvent.keyboard('a');
  await vi.waitFor(() => expect(posted()[0]?.path).toBe('/api/items/21/take'));
  await userEvent.keyboard('d');
  await vi.waitFor(() => expect(posted()[1]?.path).toBe('/api/items/21/done'));
  await vi.waitFor(() => expect((router.state.location.search as { item?: number }).item).toBe(22));
});

it('the arrows go through the list, and the tabs narrow it', async () => {
  const { router } = open({
    'GET /api/queues/1/items': {
      id: 1,
      name: 'Berthing desk',
      now: item.placedAt,
      items: [item, { ...second, state: 'Waiting', mine: true, takenBy: 'Nell' }],
      doneToday: 0,
    },
  });
  await screen.findByRole('complementary', { name: 'Desk' });
  expect(screen.queryByText('Another berth')).toBeNull();
  await userEvent.click(screen.getByRole('tab', { name: 'Waiting 1' }));
  expect((await screen.findAllByText('Another berth'))[0]).toBeVisible();
  expect(await screen.findByRole('button', { name: /Take up/ })).toBeVisible();
  await userEvent.click(screen.getByRole('tab', { name: 'Mine 1' }));
  expect((router.state.location.search as { show?: string }).show).toBe('mine');
});

it('an item is handed on with a note, set aside, and noted', async () => {
  const { posted } = open();
  await screen.findByRole('complementary', { name: 'Desk' });
  await userEvent.keyboard('h');
  const hand = await screen.findByRole('dialog', { name: 'Hand on' });
  await userEvent.type(within(hand).getByLabelText('Note for whoever takes it'), 'too long for us');
  await userEvent.click(within(hand).getByRole('button', { name: 'Hand on' }));
  await vi.waitFor(() =>
    expect(posted()[0]).toMatchObject({
      path: '/api/items/21/hand-on',
      body: { queueId: 2, note: 'too long for us' },
    }),
  );
  cleanup();

  const again = open();
  await screen.findByRole('complementary', { name: 'Desk' });
  await userEvent.keyboard('w');
  await userEvent.click(await screen.findByRole('button', { name: /until somebody takes it up/ }));
  await vi.waitFor(() =>
    expect(again.posted()[0]).toMatchObject({ path: '/api/items/21/wait', body: { until: null } }),
  );
  await vi.waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  await userEvent.keyboard('n');
  await userEvent.type(await screen.findByLabelText(/For the people here/), 'rang her');
  await userEvent.click(screen.getByRole('button', { name: 'Add the note' }));
  await vi.waitFor(() =>
    expect(again.posted()[1]).toMatchObject({ path: '/api/items/21/note', body: { text: 'rang her' } }),
  );
});

it('whoever may only look has no buttons and no keys', async () => {
  const { posted } = open({ 'GET /api/me': { ...me, permissions: [] } });
  await screen.findByRole('complementary', { name: 'Desk' });
  expect(screen.queryByRole('button', { name: /^Done/ })).toBeNull();
  await userEvent.keyboard('da');
  expect(posted()).toEqual([]);
});

it('says so when nothing waits, when an item has gone, and when there is no queue', async () => {
  open({
    'GET /api/queues/1/items': { id: 1, name: 'Berthing desk', now: item.placedAt, items: [], doneToday: 0 },
  });
  expect(await screen.findByText('Nothing waits in this queue')).toBeVisible();
  cleanup();
  open({}, '/queues?item=99');
  expect(await screen.findByText(/was dealt with/)).toBeVisible();
  cleanup();
  open({ 'GET /api/queues': [] });
  expect(await screen.findByText('There is no queue yet')).toBeVisible();
});
