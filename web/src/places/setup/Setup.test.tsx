import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { me, serve, setup } from '@/test-api';
import { showAt } from '@/test-routed';
import { Setup } from './Setup';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

function open(address = '/setup', more: Record<string, unknown> = {}) {
  const calls = serve({
    'GET /api/setup': {
      ...setup,
      people: [
        { name: 'Nell Harbury', email: 'nell@saltmarrow.example', permissions: ['builder', 'keeper'] },
      ],
      log: [{ at: '2026-11-24T09:00:00Z', person: 'Nell Harbury', what: 'added the queue Large berths' }],
    },
    'GET /api/workflows': [],
    ...more,
  });
  const router = showAt('/setup', address, Setup);
  return { calls, router };
}

it('every part says what it is about, and leads to the others', async () => {
  const { router } = open();
  const nav = await screen.findByRole('navigation', { name: 'Setup' });
  expect(within(nav).getAllByRole('button')).toHaveLength(11);
  expect(
    await screen.findByText('By SMTP. berths@saltmarrow.example, fuel@saltmarrow.example'),
  ).toBeVisible();
  for (const [part, about, row] of [
    ['Queues', /cannot be removed/, 'Large berths'],
    ['Keyword lists', /Looking for ten thousand/, '2 words.'],
    ['Saved conditions', /changes every sheet/, 'Our regulars'],
    ['Templates', /in Liquid/, 'Received'],
    ['Destinations', /Only addresses entered here/, 'https://app.example'],
    ['People', /Who can sign in/, 'nell@saltmarrow.example'],
    ['Audit log', /Only ever added to/, 'added the queue Large berths'],
  ] as const) {
    await userEvent.click(within(nav).getByRole('button', { name: part }));
    expect(await screen.findByText(about)).toBeVisible();
    expect(await screen.findByText(row)).toBeVisible();
  }
  expect((router.state.location.search as { part?: string }).part).toBe('log');
  expect(within(nav).getByRole('link', { name: 'Catch-up' })).toHaveAttribute('href', '/catch-up');
});

it('a record is chosen, changed and closed; a new one begins empty', async () => {
  const { calls, router } = open('/setup?part=queues', {
    'PUT /api/setup/queues/2': 2,
    'PUT /api/setup/queues/0': 3,
  });
  await userEvent.click(await screen.findByRole('button', { name: 'Large berths' }));
  const name = await screen.findByLabelText('Name');
  expect(name).toHaveValue('Large berths');
  await userEvent.clear(name);
  await userEvent.type(name, 'Big berths');
  await userEvent.click(screen.getByRole('button', { name: 'Save' }));
  await vi.waitFor(() =>
    expect(calls.find((c) => c.method === 'PUT')).toMatchObject({
      path: '/api/setup/queues/2',
      body: { name: 'Big berths' },
    }),
  );
  await vi.waitFor(() => expect((router.state.location.search as { id?: number }).id).toBeUndefined());
  await userEvent.click(await screen.findByRole('button', { name: 'Add a queue' }));
  expect(await screen.findByLabelText('Name')).toHaveValue('');
});

it('what a mailbox is read from, and that it cannot be, stands beside it', async () => {
  const connection = { host: 'mail.example', folder: 'INBOX', paused: false };
  const mailbox = { ...setup.mailboxes[0], connection };
  const rows = [
    mailbox,
    { ...mailbox, id: 2, name: 'Fuel', health: { problem: 'The server refused the password.' } },
    { ...mailbox, id: 3, name: 'Old', connection: { ...connection, paused: true } },
  ];
  open('/setup', { 'GET /api/setup': { ...setup, mailboxes: rows } });
  expect(await screen.findByText(/^Read from mail.example, INBOX/)).toBeVisible();
  expect(screen.getByText(/^Cannot be read from mail.example/)).toBeVisible();
  expect(screen.getByText(/^Paused from mail.example/)).toBeVisible();
});

it('an empty part says so, and whoever is no keeper adds nothing', async () => {
  open('/setup?part=destinations', {
    'GET /api/setup': { ...setup, destinations: [] },
    'GET /api/me': { ...me, permissions: ['desk'] },
  });
  expect(await screen.findByText('There is no destination yet.')).toBeVisible();
  expect(screen.queryByRole('button', { name: 'Add a destination' })).toBeNull();
});
