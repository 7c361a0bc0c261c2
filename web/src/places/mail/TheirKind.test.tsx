import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve } from '@/test-api';
import { showAt } from '@/test-routed';
import { TheirKind } from './TheirKind';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const kind = {
  text: 'the sender’s domain is “plant.example”',
  set: {
    all: [{ id: 'k1', part: 'SenderDomain', test: 'Is', values: ['plant.example'] }],
    any: [],
    none: [],
  },
  chosen: 1,
  matched: 3,
  recall: 1,
  precision: 1 / 3,
  others: [
    { id: 8, arrivedAt: '2026-11-24T09:12:00Z', senderAddress: 'm@plant.example', subject: 'Pump 3' },
    { id: 9, arrivedAt: '2026-11-24T09:13:00Z', senderAddress: 'm@plant.example', subject: 'Crane 1' },
  ],
};

it('a condition is proposed with its figures, and messages of the same kind are added', async () => {
  const calls = serve({ 'POST /api/workflows/kind': [kind], 'GET /api/workflows': [] });
  showAt('/mail', '/mail', () => <TheirKind messageIds={[7]} open onClose={() => undefined} />);
  expect(await screen.findByText('precision 33 %')).toBeVisible();
  await userEvent.click(screen.getByRole('button', { name: 'finds 3, 2 others' }));
  expect(screen.getByRole('link', { name: 'Pump 3' })).toBeVisible();
  await userEvent.click(screen.getByRole('button', { name: 'They are the same kind' }));
  await vi.waitFor(() =>
    expect(calls.filter((c) => c.path === '/api/workflows/kind').at(-1)?.body).toEqual({
      messageIds: [7, 8, 9],
      days: null,
    }),
  );
});

it('the conditions begin a workflow', async () => {
  const calls = serve({
    'POST /api/workflows/kind': [kind],
    'GET /api/workflows': [],
    'POST /api/workflows': { id: 4, name: 'x' },
    'GET /api/workflows/4': {
      id: 4,
      number: 1,
      revision: 0,
      sheet: { takesIn: { all: [], any: [], none: [] }, lines: [] },
    },
    'PUT /api/workflows/4/sheet': {},
  });
  showAt('/mail', '/mail', () => <TheirKind messageIds={[7]} open onClose={() => undefined} />);
  await userEvent.click(await screen.findByRole('button', { name: 'Use it' }));
  await userEvent.click(screen.getByRole('button', { name: 'Go on' }));
  await vi.waitFor(() =>
    expect(calls.find((c) => c.method === 'PUT')?.body).toMatchObject({
      sheet: { takesIn: { all: [{ part: 'SenderDomain', values: ['plant.example'] }] } },
    }),
  );
});
