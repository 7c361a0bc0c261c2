import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve, setup, show } from '@/test-api';
import { DeskHoursForm } from './DeskHoursForm';
import { KeywordListForm } from './KeywordListForm';
import { MailboxForm } from './MailboxForm';
import { SavedConditionForm } from './SavedConditionForm';

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
  expect(put.body).toEqual({
    id: 0,
    name: 'Tugs',
    description: '',
    words: ['tug', 'tow', 'push boat'],
    options: { wholeWords: true, sameCase: false, sameAccents: true, endings: false },
  });
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

it('how a list is compared is chosen; endings go with whole words only', async () => {
  const calls = serve();
  show(<KeywordListForm record={setup.keywordLists[0]} may onDone={() => undefined} />);
  await userEvent.click(screen.getByRole('checkbox', { name: /simple English endings/ }));
  await userEvent.click(screen.getByRole('checkbox', { name: /Accents make no difference/ }));
  await userEvent.click(screen.getByRole('checkbox', { name: /Within longer words too/ }));
  expect(screen.getByRole('checkbox', { name: /simple English endings/ })).toBeDisabled();
  await userEvent.click(screen.getByRole('button', { name: 'Save' }));
  await waitFor(() =>
    expect(calls.find((c) => c.method === 'PUT')?.body).toMatchObject({
      options: { wholeWords: false, sameCase: false, sameAccents: false, endings: false },
    }),
  );
});

it('a condition is saved under a name, without saved conditions in it', async () => {
  const calls = serve();
  const done = vi.fn();
  show(<SavedConditionForm record={undefined} may onDone={done} />);
  await userEvent.type(screen.getByLabelText('Name'), 'From the agents');
  await screen.findByRole('option', { name: 'ends with' });
  expect(screen.queryByRole('option', { name: 'saved condition' })).toBeNull();
  await userEvent.type(screen.getByLabelText('Values, separated by commas'), 'agent');
  await userEvent.click(screen.getByRole('button', { name: 'Save' }));
  await waitFor(() => expect(done).toHaveBeenCalled());
  expect(calls.find((c) => c.method === 'PUT')?.body).toMatchObject({
    name: 'From the agents',
    set: { all: [{ part: 'SubjectOrBody', test: 'Contains', values: ['agent'] }] },
  });
});

it('the desk’s hours are saved with their days', async () => {
  const calls = serve();
  show(<DeskHoursForm record={setup.deskHours} may />);
  await userEvent.click(screen.getByRole('button', { name: 'Saturday' }));
  await userEvent.click(screen.getByRole('button', { name: 'Monday' }));
  await userEvent.click(screen.getByRole('button', { name: 'Save' }));
  await waitFor(() =>
    expect(calls.find((c) => c.method === 'PUT')?.body).toMatchObject({
      zone: 'Europe/London',
      days: [2, 3, 4, 5, 6],
    }),
  );
});
