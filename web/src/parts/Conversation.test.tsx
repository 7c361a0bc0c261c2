import { cleanup, screen } from '@testing-library/react';
import { afterEach, expect, it } from 'vitest';
import type { MessageRow } from '@/api/types';
import { showAt } from '@/test-routed';
import { Conversation } from './Conversation';

afterEach(cleanup);

const message: MessageRow = {
  id: 9,
  arrivedAt: '2025-11-24T09:12:00Z',
  senderName: '',
  senderAddress: 'ada@x.example',
  subject: '',
  attachmentCount: 0,
  automatic: null,
  state: 'Planned',
  takenIn: false,
  duplicate: false,
  old: false,
  problem: null,
};

it('links the other messages, even those without a subject or a name', async () => {
  showAt('/', '/', () => <Conversation messages={[message]} />);
  const link = await screen.findByRole('link', { name: /no subject.*ada@x.example, 24 Nov 2025/ });
  expect(link).toHaveAttribute('href', '/mail?id=9');
});

it('says nothing where there is no other message', async () => {
  showAt('/', '/', () => (
    <>
      <p>here</p>
      <Conversation messages={[]} />
    </>
  ));
  expect(await screen.findByText('here')).toBeVisible();
  expect(screen.queryByText('The same conversation')).toBeNull();
});
