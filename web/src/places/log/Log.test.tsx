import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import type { DeedView, RunView } from '@/api/types';
import { serve } from '@/test-api';
import { showAt } from '@/test-routed';
import { Log } from './Log';
import { accounts } from './RunLog';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const look: RunView = {
  id: 4,
  kind: 'Look',
  state: 'Finished',
  mailboxId: 1,
  mailbox: 'Harbour',
  workflowId: null,
  workflow: null,
  edition: null,
  person: null,
  startedAt: '2026-11-25T09:00:00Z',
  endedAt: '2026-11-25T09:00:01Z',
  choice: 'INBOX',
  sendReplies: false,
  problem: null,
  detail: null,
  lookedAt: 12,
  carriedOver: 2,
  taken: 8,
  known: 1,
  gone: 1,
  unreadable: 0,
  excluded: 0,
  takenIn: 0,
  leftAlone: 0,
  toCome: 0,
  planned: 0,
  done: 0,
  waiting: 0,
  stuck: 0,
  skipped: 0,
};

const stuck = (id: number): DeedView => ({
  id,
  messageId: id + 100,
  messageSubject: `Fault ${id}`,
  kind: 'PassOn',
  says: `pass on to ledger ${id}`,
  state: 'Stuck',
  because: 'It answered 503',
  attempts: 6,
  createdAt: look.startedAt,
  notBefore: null,
  doneAt: null,
  workflow: 'Faults',
  edition: 1,
  history: [{ state: 'Stuck', at: look.startedAt, note: 'It answered 503', person: null }],
});

it('the accounts of a look and of a catch-up come to the same on both sides', () => {
  expect(accounts(look)).toBe(
    '12 found = 8 taken + 1 here already + 1 gone before they were read + 2 carried over',
  );
  expect(
    accounts({ ...look, kind: 'CatchUp', lookedAt: 9, excluded: 2, takenIn: 3, leftAlone: 2, toCome: 2 }),
  ).toBe('7 chosen = 3 taken in + 2 left alone + 2 to come');
});

it('a failed look says why in words, and opens the protocol detail behind it', async () => {
  serve({
    'GET /api/workflows': [],
    'GET /api/log/runs': {
      runs: [
        { ...look, state: 'Failed', lookedAt: 0, problem: 'Nothing answers at mail:993', detail: 'S: * BYE' },
      ],
      nextId: null,
    },
    'GET /api/log/runs/4/lines': [
      { messageId: null, subject: '', source: 'imap:1:7:INBOX', what: 'Gone', because: 'It was moved' },
    ],
  });
  showAt('/log', '/log', Log);
  await userEvent.click(await screen.findByRole('button', { name: 'Look at Harbour' }));
  expect(await screen.findByText('S: * BYE')).toBeVisible();
  expect(await screen.findByText('gone: It was moved')).toBeVisible();
});

it('stuck deeds are tried again together', async () => {
  const calls = serve({
    'GET /api/workflows': [],
    'GET /api/log/deeds': { deeds: [stuck(1), stuck(2)], nextId: null, total: 2 },
    'POST /api/deeds/retry': { changed: 2, left: 0 },
  });
  showAt('/log', '/log?tab=deeds&outcome=Stuck', Log);
  await userEvent.click(await screen.findByLabelText('all 2 stuck ones shown'));
  await userEvent.click(screen.getByRole('button', { name: 'Try 2 again' }));
  await waitFor(() =>
    expect(calls.find((c) => c.path === '/api/deeds/retry')?.body).toEqual({ ids: [1, 2] }),
  );
  expect(calls.find((c) => c.path.startsWith('/api/log/deeds'))!.path).toContain('show=Stuck');
});

it('a stuck deed is aimed elsewhere', async () => {
  const calls = serve({
    'GET /api/workflows': [],
    'GET /api/log/deeds': { deeds: [stuck(1)], nextId: null, total: 1 },
  });
  showAt('/log', '/log?tab=deeds', Log);
  await userEvent.click(await screen.findByRole('button', { name: 'pass on to ledger 1' }));
  await userEvent.selectOptions(await screen.findByLabelText('Pass on to'), '9');
  await userEvent.click(screen.getByRole('button', { name: 'Change and try again' }));
  await waitFor(() =>
    expect(calls.find((c) => c.path === '/api/deeds/1/change')?.body).toEqual({
      destinationId: 9,
      folder: null,
    }),
  );
});
