import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import type { WorkflowView } from '@/api/types';
import { serve, show } from '@/test-api';
import { PastEditions } from './PastEditions';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const edition = { changedAt: '2026-11-20T09:00:00Z', changedBy: 'Bram', liveSince: null, liveUntil: null };
const view = {
  id: 3,
  name: 'Berth requests',
  revision: 7,
  editions: [
    { ...edition, number: 3, state: 'InHand' },
    { ...edition, number: 2, state: 'Live', liveSince: '2026-11-18T09:00:00Z' },
    {
      ...edition,
      number: 1,
      state: 'Past',
      liveSince: '2026-11-01T09:00:00Z',
      liveUntil: '2026-11-18T09:00:00Z',
    },
  ],
} as unknown as WorkflowView;

function open(changes: unknown[], may = true) {
  const calls = serve({
    'GET /api/workflows/3/compare': changes,
    'POST /api/workflows/3/bring-back': { ...view, revision: 8 },
  });
  const onBroughtBack = vi.fn();
  const onClose = vi.fn();
  show(<PastEditions view={view} open onClose={onClose} onBroughtBack={onBroughtBack} may={may} />);
  return { calls, onBroughtBack, onClose };
}

it('the newest two are compared at first, any two on demand', async () => {
  const { calls } = open([
    { band: 'does', before: 'place in Berthing desk', after: 'place in Large berths' },
  ]);
  expect(await screen.findByText('place in Large berths')).toBeVisible();
  expect(screen.getByText('place in Berthing desk').tagName).toBe('DEL');
  expect(calls.some((c) => c.path === '/api/workflows/3/compare?from=2&to=3')).toBe(true);
  await userEvent.selectOptions(screen.getByLabelText('Older edition'), 'edition 1');
  await vi.waitFor(() =>
    expect(calls.some((c) => c.path === '/api/workflows/3/compare?from=1&to=3')).toBe(true),
  );
});

it('an earlier one is brought back as the edition in hand, and only earlier ones', async () => {
  const { calls, onBroughtBack, onClose } = open([]);
  expect(await screen.findByText('Nothing.')).toBeVisible();
  const rows = screen.getAllByRole('row');
  expect(within(rows[1]!).queryByRole('button')).toBeNull();
  expect(within(rows[2]!).getByText(/until now/)).toBeVisible();
  await userEvent.click(within(rows[3]!).getByRole('button', { name: 'Bring back as the edition in hand' }));
  await vi.waitFor(() =>
    expect(onBroughtBack).toHaveBeenCalledWith(expect.objectContaining({ revision: 8 })),
  );
  expect(calls.some((c) => c.path === '/api/workflows/3/bring-back?number=1')).toBe(true);
  expect(onClose).toHaveBeenCalled();
});

it('without the permission nothing is brought back', async () => {
  open([], false);
  await screen.findByText('Nothing.');
  expect(screen.queryByRole('button', { name: /Bring back/ })).toBeNull();
});
