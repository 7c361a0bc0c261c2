import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve, setup, show } from '@/test-api';
import { TestResult } from './ConnectionFields';
import { fieldPath } from './forms';
import { MailboxForm } from './MailboxForm';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const connection = {
  host: 'mail.example.org',
  port: 993,
  tls: 'Implicit' as const,
  user: 'harbour',
  password: null,
  folder: 'INBOX',
  backDays: 90,
  oldMail: 'Keep' as const,
  markRead: false,
  paceMinutes: 15,
  hours: null,
  cap: null,
  paused: false,
};

it('a kept password is neither shown nor sent back', async () => {
  const calls = serve();
  const done = vi.fn();
  show(<MailboxForm record={{ ...setup.mailboxes[0]!, connection }} may onDone={done} />);
  expect(screen.getByLabelText('Password')).toHaveValue('');
  await userEvent.click(screen.getByRole('button', { name: 'Save' }));
  await waitFor(() => expect(done).toHaveBeenCalled());
  const put = calls.find((c) => c.method === 'PUT')!;
  expect(put.body).toMatchObject({
    connection: { password: null, host: 'mail.example.org' },
    approval: null,
  });
});

it('the test of the connection says which step failed and what the server said', async () => {
  serve({
    'POST /api/setup/connection-test': {
      ok: false,
      steps: [
        { step: 'Name', ok: true, says: 'It is known.' },
        { step: 'Port', ok: true, says: 'Something answers.' },
        { step: 'Tls', ok: true, says: 'It is private.' },
        { step: 'SignIn', ok: false, says: 'The server refused the password.' },
        { step: 'Folder', ok: null, says: 'Not come to.' },
      ],
      serverSaid: 'NO wrong',
      pushes: false,
      messages: 0,
      folders: [],
      milliseconds: 12,
    },
  });
  show(<MailboxForm record={{ ...setup.mailboxes[0]!, connection }} may onDone={() => undefined} />);
  await userEvent.click(screen.getByRole('button', { name: 'Test the connection' }));
  expect(await screen.findByText('The server refused the password.')).toBeVisible();
  expect(screen.getByText('NO wrong')).toBeVisible();
});

it('a good test says whether new mail is told of', () => {
  const result = {
    ok: true,
    steps: [],
    serverSaid: '',
    pushes: true,
    messages: 3,
    folders: ['INBOX'],
    milliseconds: 9,
  };
  show(<TestResult result={result} />);
  expect(screen.getByText(/tells of new mail by itself \(IDLE\)/)).toBeVisible();
});

it('only approved senders, with nobody trusted, is said to hold everything', async () => {
  serve();
  show(<MailboxForm record={setup.mailboxes[0]} may onDone={() => undefined} />);
  await userEvent.click(screen.getByLabelText(/Only approved senders/));
  expect(screen.getByText(/No host is trusted yet/)).toBeVisible();
  await userEvent.type(screen.getByLabelText('Hosts whose Authentication-Results count'), 'mx.example.org');
  expect(screen.queryByText(/No host is trusted yet/)).toBeNull();
});

it('a pace and a cap that do not fit the history are said to', async () => {
  serve({
    'POST /api/setup/mailboxes/1/pace': {
      looks: 900,
      median: 2,
      percentile95: 9,
      most: 40,
      fits: false,
      says: 'A look takes at most 1.',
    },
  });
  show(
    <MailboxForm
      record={{ ...setup.mailboxes[0]!, connection: { ...connection, cap: 1 } }}
      may
      onDone={() => undefined}
    />,
  );
  expect(await screen.findByText('A look takes at most 1.')).toBeVisible();
});

it('the server’s names of fields are those of the form', () => {
  expect(fieldPath('Connection.PaceMinutes')).toBe('connection.paceMinutes');
  expect(fieldPath('Addresses[3]')).toBe('addresses');
});
