import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve } from '@/test-api';
import { showAt } from '@/test-routed';
import { Overlaps } from './Overlaps';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const view = {
  messages: 688,
  workflows: [
    { id: 1, name: 'Berths' },
    { id: 2, name: 'Fuel' },
    { id: 3, name: 'Everything else' },
  ],
  taken: { 1: 316, 2: 20, 3: 688 },
  pairs: [
    {
      first: 1,
      second: 3,
      skipped: true,
      both: 316,
      answered: 4,
      messages: [
        { id: 7, arrivedAt: '2026-11-24T09:12:00Z', senderAddress: 'a@b.example', subject: 'Berth' },
      ],
      answeredMessages: [
        { id: 8, arrivedAt: '2026-11-24T09:12:00Z', senderAddress: 'a@b.example', subject: 'Answered twice' },
      ],
    },
  ],
};

it('two workflows that share messages meet on the map, and the messages open', async () => {
  serve({ 'GET /api/workflows/overlaps': view });
  showAt('/workflows', '/workflows', () => <Overlaps />);
  await userEvent.click(
    await screen.findByRole('button', { name: '316 messages taken by Berths and Everything else' }),
  );
  expect(screen.getByText(/goes first and skips later workflows/)).toBeVisible();
  expect(screen.getByRole('link', { name: 'Berth' })).toBeVisible();
  expect(screen.getByText('and 315 more.')).toBeVisible();
  await userEvent.click(screen.getByRole('checkbox', { name: 'only the 4 both would answer' }));
  expect(screen.getByRole('link', { name: 'Answered twice' })).toBeVisible();
  expect(screen.getByText('and 3 more.')).toBeVisible();
});

it('without overlaps it says so', async () => {
  serve({ 'GET /api/workflows/overlaps': { ...view, pairs: [] } });
  showAt('/workflows', '/workflows', () => <Overlaps />);
  expect(await screen.findByText(/none is taken in by two live workflows/)).toBeVisible();
});
