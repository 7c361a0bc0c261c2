import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { me, serve } from '@/test-api';
import { deed, file, item, messageRow, messageView, verdict } from '@/test-made';
import { showAt } from '@/test-routed';
import { Mail } from './Mail';

// The list asks how high it is; a document without layout says 0.
beforeEach(() => {
  vi.spyOn(Element.prototype, 'clientHeight', 'get').mockReturnValue(600);
});

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const second = { ...messageRow, id: 8, subject: 'Diesel', takenIn: false };

function open(more: Record<string, unknown> = {}, address = '/mail') {
  const calls = serve({
    'GET /api/messages': { messages: [messageRow, second], nextTime: null, nextId: null, total: 1234 },
    'GET /api/messages/7': messageView(),
    'GET /api/messages/8': messageView({ row: second, verdicts: [] }),
    'GET /api/workflows': [],
    'GET /api/messages/7/sorting': [],
    'GET /api/messages/8/sorting': [],
    ...more,
  });
  const router = showAt('/mail', address, Mail);
  return { calls, router, posted: () => calls.filter((c) => c.method === 'POST') };
}

it('the newest message is open; words, a kind of mail and the arrows find others', async () => {
  const { calls, router } = open();
  expect(await screen.findByText('1,234')).toBeVisible();
  const found = screen.getByRole('region', { name: 'Messages found' });
  expect(within(found).getByText('taken in')).toBeVisible();
  expect(within(found).getByText('left alone')).toBeVisible();
  await screen.findByRole('complementary', { name: 'Reasons and deeds' });
  await userEvent.keyboard('{ArrowDown}');
  await vi.waitFor(() => expect((router.state.location.search as { id?: number }).id).toBe(8));
  await userEvent.selectOptions(screen.getByLabelText('Which mail'), 'held');
  await vi.waitFor(() => expect(calls.some((c) => c.path.includes('show=Held'))).toBe(true));
  await userEvent.type(screen.getByLabelText('Find mail'), 'berth');
  await vi.waitFor(() => expect(calls.some((c) => c.path.includes('text=berth&show=Held'))).toBe(true));
  expect(screen.getByRole('link', { name: 'Export as mbox' })).toHaveAttribute(
    'href',
    '/api/messages/export?text=berth&show=Held',
  );
});

it('messages are picked for a catch-up or for finding their kind, and none again', async () => {
  open();
  const pick = await screen.findByRole('checkbox', { name: 'Pick Diesel' });
  await userEvent.click(pick);
  expect(screen.getByText('1 picked')).toBeVisible();
  expect(screen.getByRole('link', { name: 'Carry out a workflow' })).toHaveAttribute(
    'href',
    '/catch-up?ids=%5B8%5D',
  );
  await userEvent.click(screen.getByRole('button', { name: 'none' }));
  expect(pick).not.toBeChecked();
});

it('held mail is released, one by one or together', async () => {
  const held = { ...messageRow, state: 'Held' as const, takenIn: false };
  const { posted } = open(
    {
      'GET /api/messages': { messages: [held], nextTime: null, nextId: null, total: 1 },
      'GET /api/messages/7': messageView({
        row: held,
        senderCheck: 'the sender is not approved',
        verdicts: [],
      }),
      'POST /api/messages/release': 1,
    },
    '/mail?show=Held',
  );
  expect(await screen.findByText(/the sender is not approved\. No workflow has seen it/)).toBeVisible();
  await userEvent.click(await screen.findByRole('button', { name: 'Release' }));
  await vi.waitFor(() =>
    expect(posted()[0]).toMatchObject({ path: '/api/messages/release', body: { messageIds: [7] } }),
  );
  await userEvent.click(screen.getByRole('checkbox'));
  await userEvent.click(screen.getAllByRole('button', { name: 'Release' })[0]!);
  await vi.waitFor(() => expect(posted()).toHaveLength(2));
});

it('says what was found nowhere, what went wrong, and what cannot be read', async () => {
  open({ 'GET /api/messages': { messages: [], nextTime: null, nextId: null, total: 0 } }, '/mail?text=xyz');
  expect(await screen.findByText(/Words must all occur/)).toBeVisible();
  cleanup();
  open({ 'GET /api/messages': new Error('The search took too long.') });
  expect(await screen.findByText(/The search took too long/)).toBeVisible();
  cleanup();
  const broken = {
    ...messageRow,
    state: 'Unreadable' as const,
    problem: 'It ends in the middle of its header.',
  };
  open({ 'GET /api/messages/7': messageView({ row: broken, prepared: null as never, verdicts: [] }) });
  const alert = await screen.findByRole('alert');
  expect(alert).toHaveTextContent('It ends in the middle of its header.');
  expect(alert).toHaveTextContent('kept exactly as they came');
  expect(screen.getByRole('link', { name: /As received/ })).toHaveAttribute('href', '/api/messages/7/raw');
});

it('a message shows every workflow that looked at it, and its reasons on demand', async () => {
  const other = {
    ...verdict,
    workflowId: 4,
    workflowName: 'Fuel orders',
    outcome: 'LeftAlone',
    reasons: [],
    facts: [],
    nearMiss: true,
  };
  open({
    'GET /api/messages/7': messageView({
      verdicts: [verdict, other as never],
      deeds: [deed],
      tickets: ['SH-104'],
      files: [file],
      items: [{ item, queueName: 'Berthing desk', entries: [] }],
    }),
  });
  const side = await screen.findByRole('complementary', { name: 'Reasons and deeds' });
  expect(within(side).getByText(/the subject holds the word/)).toBeVisible();
  expect(within(side).getByRole('link', { name: 'SH-104' })).toHaveAttribute('href', '/tickets/SH-104');
  expect(within(side).getByRole('link', { name: 'Berthing desk' })).toHaveAttribute(
    'href',
    '/queues?queue=1&item=21',
  );
  expect(within(side).getByRole('link', { name: 'manifest.pdf' })).toBeVisible();
  await userEvent.click(within(side).getByRole('button', { name: /Fuel orders/ }));
  expect(within(side).queryByText(/the subject holds the word/)).toBeNull();
  expect(within(side).getByRole('button', { name: /Fuel orders/ })).toHaveAttribute('aria-expanded', 'true');
});

it('old mail, a copy, and a message that is still looked at say what they are', async () => {
  open({ 'GET /api/messages/7': messageView({ row: { ...messageRow, old: true }, verdicts: [] }) });
  expect(await screen.findByText(/A catch-up carries workflows out on it/)).toBeVisible();
  cleanup();
  open({ 'GET /api/messages/7': messageView({ duplicateOfId: 3 }) });
  expect(await screen.findByRole('link', { name: 'Open the first one' })).toHaveAttribute(
    'href',
    '/mail?id=3',
  );
  cleanup();
  open({
    'GET /api/messages/7': messageView({ row: { ...messageRow, state: 'Arrived' }, prepared: null as never }),
  });
  expect(await screen.findByText(/is being looked at/)).toBeVisible();
});

it('deeds are done by hand with a key each', async () => {
  const { posted } = open({
    'POST /api/messages/7/place': ['Placed in Large berths'],
    'POST /api/messages/7/ticket': ['Opened SH-9'],
    'POST /api/messages/7/file': ['Filed crew list.pdf'],
    'POST /api/messages/7/pass-on': ['handed over'],
  });
  await screen.findByRole('button', { name: /^Place/ });
  await userEvent.keyboard('q');
  await userEvent.selectOptions(await screen.findByLabelText('Queue'), 'Large berths');
  await userEvent.click(screen.getByRole('button', { name: 'Place in a queue' }));
  await vi.waitFor(() =>
    expect(posted()[0]).toMatchObject({
      path: '/api/messages/7/place',
      body: { queueId: 2, dueInMinutes: null },
    }),
  );
  await vi.waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  await userEvent.keyboard('t');
  await userEvent.type(await screen.findByLabelText('Kind of ticket'), 'Crane fault');
  await userEvent.selectOptions(screen.getByLabelText('Priority'), 'high');
  await userEvent.click(screen.getByRole('button', { name: 'Open a ticket' }));
  await vi.waitFor(() =>
    expect(posted()[1]).toMatchObject({ body: { label: 'Crane fault', priority: 'High' } }),
  );
  await vi.waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  await userEvent.keyboard('f');
  await userEvent.type(await screen.findByLabelText('Folder'), 'Crew');
  await userEvent.click(screen.getByRole('button', { name: 'File the attachments' }));
  await vi.waitFor(() =>
    expect(posted()[2]).toMatchObject({ path: '/api/messages/7/file', body: { folder: 'Crew' } }),
  );
  await vi.waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  await userEvent.keyboard('p');
  await userEvent.click(await screen.findByRole('button', { name: 'Pass on to another application' }));
  await vi.waitFor(() => expect(posted()[3]).toMatchObject({ body: { destinationId: 9 } }));
});

it('a reply written by hand begins from a template and shows its gaps before it is sent', async () => {
  const { posted, calls } = open({
    'GET /api/messages/7/reply-draft': {
      to: 'ann@quay.example',
      subject: 'Re: A berth',
      body: 'Dear ,',
      missing: ['vessel'],
    },
  });
  await screen.findByRole('button', { name: /^Place/ });
  await userEvent.keyboard('r');
  await userEvent.selectOptions(await screen.findByLabelText('Template'), 'Received');
  await vi.waitFor(() => expect(calls.some((c) => c.path.endsWith('reply-draft?templateId=7'))).toBe(true));
  expect(await screen.findByText(/Not found in the message: vessel/)).toBeVisible();
  const text = screen.getByLabelText('Text');
  await userEvent.clear(text);
  expect(screen.getByRole('button', { name: 'Send' })).toBeDisabled();
  await userEvent.type(text, 'Dear Ann,');
  await userEvent.click(screen.getByRole('button', { name: 'Send' }));
  await vi.waitFor(() =>
    expect(posted()[0]?.body).toEqual({ to: 'ann@quay.example', body: 'Dear Ann,', templateId: 7 }),
  );
});

it('without the permission there is nothing to do by hand', async () => {
  open({ 'GET /api/me': { ...me, permissions: [] } });
  await screen.findByRole('complementary', { name: 'Reasons and deeds' });
  expect(screen.queryByRole('button', { name: /^Place/ })).toBeNull();
  expect(screen.queryByRole('button', { name: 'Bring in files' })).toBeNull();
});
