import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve } from '@/test-api';
import { showAt } from '@/test-routed';
import { CatchUp } from './CatchUp';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const run = {
  id: 4,
  kind: 'CatchUp',
  state: 'Draft',
  mailboxId: null,
  mailbox: null,
  workflowId: 3,
  workflow: 'Berths',
  edition: 2,
  person: 'Nell',
  startedAt: '2026-11-25T09:00:00Z',
  endedAt: null,
  choice: 'old mail, at most 500',
  sendReplies: false,
  problem: null,
  detail: null,
  lookedAt: 3,
  carriedOver: 0,
  taken: 0,
  known: 0,
  gone: 0,
  unreadable: 0,
  excluded: 1,
  takenIn: 1,
  leftAlone: 1,
  toCome: 0,
  planned: 2,
  done: 1,
  waiting: 0,
  stuck: 0,
  skipped: 1,
};

const row = {
  number: 1,
  messageId: 11,
  arrivedAt: run.startedAt,
  senderName: 'Maud',
  senderAddress: 'maud@tern.example',
  subject: 'Berth',
  outcome: 'Chosen',
  takenIn: true,
  because: null,
  deeds: [
    {
      kind: 'Place',
      target: '1',
      says: 'place in Berthing desk',
      skipped: 'it was done before',
      held: null,
      canRepeat: true,
      again: false,
    },
    {
      kind: 'Reply',
      target: 'maud@tern.example',
      says: 'send “Received”',
      skipped: null,
      held: 'a person checks it first',
      canRepeat: false,
      again: false,
    },
  ],
};

const draft = {
  'GET /api/log/runs/4': run,
  'GET /api/catch-ups/4/preview': {
    chosen: 2,
    takenIn: 1,
    leftAlone: 1,
    excluded: 1,
    counts: [
      { kind: 'Place', made: 0, skipped: 1, held: 0 },
      { kind: 'Reply', made: 1, skipped: 0, held: 1 },
    ],
    writtenTo: ['maud@tern.example'],
  },
  'GET /api/catch-ups/4/messages': { messages: [row], total: 1 },
};

it('shows exactly what would be done, and who would be written to, before anything is', async () => {
  serve(draft);
  showAt('/catch-up', '/catch-up?run=4', CatchUp);
  expect(await screen.findByText('maud@tern.example', { selector: 'li' })).toBeVisible();
  expect(screen.getByText('1 wait for checking')).toBeVisible();
  expect(await screen.findByText('it was done before')).toBeVisible();
  expect(screen.getByRole('button', { name: 'Carry out on 2' })).toBeEnabled();
});

it('a message is taken out, a deed asked for again, and the whole confirmed', async () => {
  const calls = serve(draft);
  showAt('/catch-up', '/catch-up?run=4', CatchUp);
  await userEvent.click(await screen.findByLabelText('do it again'));
  await userEvent.click(screen.getByLabelText('Carry out on Berth'));
  await userEvent.click(screen.getByRole('button', { name: 'Carry out on 2' }));
  await waitFor(() => expect(calls.some((c) => c.path === '/api/catch-ups/4/confirm')).toBe(true));
  expect(calls.find((c) => c.path === '/api/catch-ups/4/again')!.body).toEqual({
    messageId: 11,
    kind: 'Place',
    target: '1',
    again: true,
  });
  expect(calls.find((c) => c.path === '/api/catch-ups/4/exclude')!.body).toEqual({
    messageIds: [11],
    exclude: true,
  });
});

it('the accounts balance and every number opens', async () => {
  serve({ ...draft, 'GET /api/log/runs/4': { ...run, state: 'Finished' } });
  showAt('/catch-up', '/catch-up?run=4', CatchUp);
  expect(await screen.findByRole('button', { name: '2 chosen' })).toBeVisible();
  expect(screen.getByRole('button', { name: '1 taken in' })).toBeVisible();
  expect(screen.getByRole('link', { name: '2 planned' })).toHaveAttribute('href', '/log?tab=deeds&run=4');
  expect(screen.getByRole('link', { name: '1 done' })).toHaveAttribute(
    'href',
    '/log?tab=deeds&run=4&outcome=Done',
  );
});

it('a stopped run goes on when told to', async () => {
  const calls = serve({
    ...draft,
    'GET /api/log/runs/4': { ...run, state: 'Stopped', toCome: 1, takenIn: 0 },
  });
  showAt('/catch-up', '/catch-up?run=4', CatchUp);
  await userEvent.click(await screen.findByRole('button', { name: 'Go on' }));
  await waitFor(() => expect(calls.some((c) => c.path === '/api/catch-ups/4/resume')).toBe(true));
});

it('is begun on what the search finds', async () => {
  const calls = serve({
    'GET /api/workflows': [{ id: 3, name: 'Berths', liveEdition: 2 }],
    'GET /api/messages': { messages: [], nextTime: null, nextId: null, total: 900 },
    'POST /api/catch-ups': 4,
  });
  showAt('/catch-up', '/catch-up?text=berth', CatchUp);
  expect(await screen.findByText('500 messages of 900 found')).toBeVisible();
  await userEvent.click(screen.getByRole('button', { name: 'Look it over' }));
  await waitFor(() =>
    expect(calls.find((c) => c.method === 'POST')?.body).toMatchObject({
      workflowId: 3,
      text: 'berth',
      show: 'Old',
      most: 500,
      ids: null,
    }),
  );
});
