import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve, setup, show } from '@/test-api';
import { KeywordListForm } from './forms';
import { MailboxForm } from './MailboxForm';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

it('a keyword list is saved with its pasted words split', async () => {
  const calls = serve();
  const done = vi.fn();
  show(<KeywordListForm record={undefined} may onDone={done} />);
  await userEvent.type(screen.getByLabelText('Name'), 'Tugs');
  await userEvent.type(screen.getByLabelText('Words and phrases'), 'tug, tow; push boat');
  await userEvent.click(screen.getByRole('button', { name: 'Save' }));
  await waitFor(() => expect(done).toHaveBeenCalled());
  const put = calls.find((c) => c.method === 'PUT')!;
  expect(put.path).toBe('/api/setup/keyword-lists/0');
  expect(put.body).toEqual({ id: 0, name: 'Tugs', description: '', words: ['tug', 'tow', 'push boat'] });
});

it('the server’s problem is shown at its field and nothing is closed', async () => {
  serve();
  const done = vi.fn();
  show(
    <MailboxForm
      record={{ ...setup.mailboxes[0]!, addresses: [{ address: 'x', name: '' }] }}
      may
      onDone={done}
    />,
  );
  vi.spyOn(globalThis, 'fetch').mockImplementation(() =>
    Promise.resolve(
      new Response(
        JSON.stringify({ title: 'x', errors: { 'Addresses[0]': ['“x” is not an e-mail address.'] } }),
        { status: 400 },
      ),
    ),
  );
  await userEvent.click(screen.getByRole('button', { name: 'Save' }));
  expect(await screen.findByText('“x” is not an e-mail address.')).toBeVisible();
  expect(screen.getByLabelText('Address 1')).toHaveAttribute('aria-invalid', 'true');
  expect(done).not.toHaveBeenCalled();
});

it('who may not change it is told so', () => {
  serve();
  show(<MailboxForm record={setup.mailboxes[0]} may={false} onDone={() => undefined} />);
  expect(screen.getByText('You can look at this but not change it.')).toBeVisible();
  expect(screen.queryByRole('button', { name: 'Save' })).toBeNull();
});
