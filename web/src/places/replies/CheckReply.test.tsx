import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import type { ReplyRow } from '@/api/types';
import { me, serve, show } from '@/test-api';
import { ReplySheet } from './CheckReply';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const reply: ReplyRow = {
  deedId: 4,
  messageId: 1,
  state: 'Checking',
  because: 'a value is missing: vessel',
  from: 'berths@saltmarrow.example',
  to: 'ada@x.example',
  subject: 'Re: Berth',
  body: 'Dear Ada,\n<b>not bold</b>',
  templateName: 'Received',
  attachmentName: 'Visitor berths.pdf',
  mailId: 'm',
  automatic: true,
  uncertain: false,
  checkedBy: null,
  createdAt: '2026-11-25T10:00:00Z',
  notBefore: null,
  doneAt: null,
  senderName: 'Ada',
  messageSubject: 'Berth',
  workflow: 'Berths',
};

it('says why it waits and shows the text as text', async () => {
  serve();
  show(<ReplySheet reply={reply} />);
  expect(screen.getByText('a value is missing: vessel')).toBeVisible();
  expect(screen.getByText(/<b>not bold<\/b>/)).toBeVisible();
  expect(screen.getByText('with Visitor berths.pdf')).toBeVisible();
  expect(await screen.findByRole('button', { name: 'Send' })).toBeVisible();
});

it('S sends it, but not while its text is being changed', async () => {
  const calls = serve();
  show(<ReplySheet reply={reply} letters />);
  await userEvent.click(await screen.findByRole('button', { name: 'Change' }));
  screen.getByRole('button', { name: 'Save the text' }).focus();
  await userEvent.keyboard('s');
  expect(calls.some((c) => c.method === 'POST')).toBe(false);
  await userEvent.click(screen.getByRole('button', { name: 'Leave as it was' }));
  await userEvent.keyboard('s');
  await waitFor(() =>
    expect(calls.map((c) => `${c.method} ${c.path}`)).toContain('POST /api/replies/4/send'),
  );
});

it('a changed text is saved whole', async () => {
  const calls = serve();
  show(<ReplySheet reply={reply} />);
  await userEvent.click(await screen.findByRole('button', { name: 'Change' }));
  await userEvent.clear(screen.getByLabelText('Text'));
  await userEvent.type(screen.getByLabelText('Text'), 'Yes.');
  await userEvent.click(screen.getByRole('button', { name: 'Save the text' }));
  await waitFor(() =>
    expect(calls.find((c) => c.method === 'PUT')?.body).toEqual({
      to: 'ada@x.example',
      subject: 'Re: Berth',
      body: 'Yes.',
    }),
  );
});

it('an uncertain one says what that means', () => {
  serve();
  show(<ReplySheet reply={{ ...reply, state: 'Stuck', uncertain: true }} />);
  expect(screen.getByText(/the recipient may already have it/)).toBeVisible();
});

it('who is no checker can only read it', async () => {
  const calls = serve({ 'GET /api/me': { ...me, permissions: ['desk'] } });
  show(<ReplySheet reply={reply} letters />);
  await waitFor(() => expect(calls.length).toBeGreaterThan(0));
  await userEvent.keyboard('s');
  expect(screen.queryByRole('button', { name: 'Send' })).toBeNull();
  expect(calls.every((c) => c.method === 'GET')).toBe(true);
});
