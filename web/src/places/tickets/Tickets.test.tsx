import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { me, serve } from '@/test-api';
import { file, ticket, ticketView } from '@/test-made';
import { showAt } from '@/test-routed';
import { Ticket } from './Ticket';
import { Tickets } from './Tickets';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const list = { tickets: [ticket], open: 1, waiting: 0, closed: 12, more: false };

it('the list says how many there are of each state, and is narrowed by state and words', async () => {
  const calls = serve({ 'GET /api/tickets': { ...list, more: true } });
  showAt('/tickets', '/tickets', Tickets);
  expect(await screen.findByRole('link', { name: 'Crane 2 has stopped' })).toHaveAttribute(
    'href',
    '/tickets/SH-104',
  );
  expect(screen.getByText(/300 changed last/)).toBeVisible();
  expect(screen.getByRole('tab', { name: 'All 13' })).toHaveAttribute('aria-selected', 'true');
  await userEvent.click(screen.getByRole('tab', { name: 'Closed 12' }));
  await vi.waitFor(() => expect(calls.some((c) => c.path.includes('state=Closed'))).toBe(true));
  await userEvent.type(screen.getByLabelText('Find a ticket'), 'crane');
  await vi.waitFor(() => expect(calls.some((c) => c.path.includes('text=crane'))).toBe(true));
});

it('an empty list says where tickets come from, and a failing one what went wrong', async () => {
  serve({ 'GET /api/tickets': { ...list, tickets: [] } });
  showAt('/tickets', '/tickets', Tickets);
  expect(await screen.findByText(/Workflows open tickets/)).toBeVisible();
  cleanup();
  serve({ 'GET /api/tickets': new Error('The database is away.') });
  showAt('/tickets', '/tickets', Tickets);
  expect(await screen.findByText(/The database is away/)).toBeVisible();
});

function open(more: Record<string, unknown> = {}) {
  const calls = serve({ 'GET /api/tickets/SH-104': { ...ticketView, files: [file] }, ...more });
  showAt('/tickets/$reference', '/tickets/SH-104', Ticket);
  return () => calls.filter((c) => c.method === 'POST');
}

it('a ticket shows who asked for what, its timeline, messages and files', async () => {
  open();
  expect(await screen.findByRole('heading', { name: 'Crane 2 has stopped' })).toBeVisible();
  expect(screen.getByText('It stopped with a load on.')).toBeVisible();
  expect(screen.getByText('Opened, Crane fault')).toBeVisible();
  expect(screen.getByRole('link', { name: 'manifest.pdf' })).toHaveAttribute('href', '/api/files/31/content');
  expect(screen.getByRole('link', { name: /A berth for a week/ })).toBeVisible();
});

it('it is closed, set waiting, described anew and noted', async () => {
  const posted = open();
  await userEvent.click(await screen.findByRole('button', { name: 'Wait' }));
  await userEvent.click(screen.getByRole('button', { name: 'Close' }));
  await userEvent.selectOptions(screen.getByLabelText('Priority'), 'high');
  await userEvent.clear(screen.getByLabelText('Summary'));
  await userEvent.type(screen.getByLabelText('Summary'), 'Crane 2 is down');
  await userEvent.tab();
  await vi.waitFor(() => expect(posted()).toHaveLength(4));
  const nothing = { state: null, priority: null, label: null, summary: null };
  expect(posted().map((c) => c.body)).toEqual([
    { ...nothing, state: 'Waiting' },
    { ...nothing, state: 'Closed' },
    { ...nothing, priority: 'High' },
    { ...nothing, summary: 'Crane 2 is down' },
  ]);
  const add = screen.getByRole('button', { name: 'Add the note' });
  expect(add).toBeDisabled();
  await userEvent.type(screen.getByLabelText('Note for the people here'), 'the fitter comes at two');
  await userEvent.click(add);
  await vi.waitFor(() => expect(posted().at(-1)?.path).toBe('/api/tickets/SH-104/note'));
  await vi.waitFor(() => expect(screen.getByLabelText('Note for the people here')).toHaveValue(''));
});

it('a field that was only visited is not saved', async () => {
  const posted = open();
  await userEvent.click(await screen.findByLabelText('Kind'));
  await userEvent.tab();
  expect(posted()).toEqual([]);
});

it('a closed one is opened again, and nobody without the permission changes anything', async () => {
  const closed = { ...ticketView, ticket: { ...ticket, state: 'Closed' } };
  const posted = open({ 'GET /api/tickets/SH-104': closed });
  await userEvent.click(await screen.findByRole('button', { name: 'Open again' }));
  await vi.waitFor(() => expect(posted()[0]?.body).toMatchObject({ state: 'Open' }));
  cleanup();
  open({ 'GET /api/me': { ...me, permissions: ['builder'] } });
  const sheet = (await screen.findByRole('heading', { name: 'Crane 2 has stopped' })).closest('div')!;
  expect(within(sheet).queryByRole('button')).toBeNull();
});
