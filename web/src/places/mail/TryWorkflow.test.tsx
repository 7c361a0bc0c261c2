import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve } from '@/test-api';
import { showAt } from '@/test-routed';
import { Release } from './Release';
import { TryWorkflow } from './TryWorkflow';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const workflows = {
  'GET /api/workflows': [
    { id: 3, name: 'Berths', liveEdition: 2 },
    { id: 4, name: 'Not live', liveEdition: null },
  ],
};

const verdict = {
  workflowId: 3,
  workflowName: 'Berths',
  edition: 2,
  outcome: 'TakenIn',
  categoryId: null,
  lineId: 'l1',
  reasons: [{ text: 'line 1 fits', evidence: [] }],
  facts: [],
  deeds: [],
  held: [],
  addressed: true,
  nearMiss: false,
};

const deed = {
  kind: 'Place',
  target: '1',
  says: 'place in Berthing desk',
  skipped: null,
  held: null,
  canRepeat: false,
  again: false,
};

const Panel = () => <TryWorkflow messageId={11} open onClose={() => undefined} />;

it('says what would happen, and does it only when told to', async () => {
  const calls = serve({
    ...workflows,
    'GET /api/messages/11/try': { verdict, leftBecause: null, deeds: [deed] },
    'POST /api/messages/11/do': 42,
  });
  showAt('/mail', '/mail', Panel);
  expect(await screen.findByText('place in Berthing desk')).toBeVisible();
  expect(screen.queryByRole('option', { name: 'Not live' })).toBeNull();
  expect(calls.some((c) => c.method === 'POST')).toBe(false);
  await userEvent.click(screen.getByRole('button', { name: 'Do it now' }));
  expect(await screen.findByRole('link', { name: 'See its accounts' })).toHaveAttribute(
    'href',
    '/catch-up?run=42',
  );
  expect(calls.find((c) => c.method === 'POST')!.path).toBe('/api/messages/11/do?workflowId=3');
});

it('what was done before cannot be done from here', async () => {
  serve({
    ...workflows,
    'GET /api/messages/11/try': {
      verdict,
      leftBecause: null,
      deeds: [{ ...deed, skipped: 'it was done before' }],
    },
  });
  showAt('/mail', '/mail', Panel);
  expect(await screen.findByText('it was done before')).toBeVisible();
  expect(screen.getByRole('button', { name: 'Do it now' })).toBeDisabled();
});

it('says why a message would be left alone', async () => {
  serve({
    ...workflows,
    'GET /api/messages/11/try': {
      verdict: null,
      leftBecause: 'left alone because it is automatic mail',
      deeds: [],
    },
  });
  showAt('/mail', '/mail', Panel);
  expect(await screen.findByText(/it is automatic mail\.$/)).toBeVisible();
  expect(screen.queryByRole('button', { name: 'Do it now' })).toBeNull();
});

it('held messages are released', async () => {
  const calls = serve({ 'POST /api/messages/release': 2 });
  const done = vi.fn();
  showAt('/mail', '/mail', () => <Release ids={[1, 2]} onDone={done} />);
  await userEvent.click(await screen.findByRole('button', { name: 'Release' }));
  await waitFor(() => expect(done).toHaveBeenCalled());
  expect(calls.find((c) => c.path === '/api/messages/release')!.body).toEqual({ messageIds: [1, 2] });
});
