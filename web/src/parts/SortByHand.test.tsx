import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import type { MessageSorting } from '@/api/types';
import { serve, show } from '@/test-api';
import { showAt } from '@/test-routed';
import { SortByHand } from './SortByHand';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const unsure: MessageSorting = {
  sorterId: 4,
  sorter: 'Harbour desk',
  sureties: [
    { categoryId: 'berth', surety: 0.4 },
    { categoryId: null, surety: 0.6 },
  ],
  workflows: [{ id: 9, name: 'Everything else' }],
  categoryId: null,
  unsure: true,
  names: { berth: 'Visitor berth', fuel: 'Fuel order' },
  labelled: false,
  labelledAs: null,
  labelledBy: null as never,
};

it('an unsure message is sorted with one key, and its item is done with it', async () => {
  const calls = serve({ 'GET /api/messages/7/sorting': [unsure], 'POST /api/messages/7/sorting/4': [1] });
  const sorted = vi.fn();
  show(<SortByHand messageId={7} itemId={3} onSorted={sorted} />);
  expect(await screen.findByText(/Unsure. Which is it/)).toBeVisible();
  expect(screen.getByText(/Everything else then does/)).toBeVisible();
  await userEvent.keyboard('2');
  await vi.waitFor(() =>
    expect(calls.find((c) => c.method === 'POST')?.body).toEqual({
      categoryId: 'fuel',
      carryOut: true,
      itemId: 3,
    }),
  );
  await vi.waitFor(() => expect(sorted).toHaveBeenCalled());
});

it('what was decided can be said to be wrong, but by no key', async () => {
  const calls = serve({
    'GET /api/messages/7/sorting': [
      { ...unsure, unsure: false, categoryId: 'berth', sureties: [{ categoryId: 'berth', surety: 0.96 }] },
    ],
    'POST /api/messages/7/sorting/4': [],
  });
  show(<SortByHand messageId={7} />);
  expect(await screen.findByText(/Visitor berth, surety 96 %/)).toBeVisible();
  await userEvent.keyboard('2');
  expect(calls.some((c) => c.method === 'POST')).toBe(false);
  await userEvent.click(screen.getByText('Not right?'));
  await userEvent.click(screen.getByRole('button', { name: /None of these/ }));
  await vi.waitFor(() =>
    expect(calls.find((c) => c.method === 'POST')?.body).toEqual({
      categoryId: null,
      carryOut: true,
      itemId: null,
    }),
  );
});

it('nothing is shown for a message no sorter was asked about', async () => {
  serve({ 'GET /api/messages/7/sorting': [] });
  const { container } = show(<SortByHand messageId={7} />);
  await vi.waitFor(() => expect(fetch).toHaveBeenCalled());
  expect(container).toBeEmptyDOMElement();
});

it('why it was sorted so is a sum of words, beside the nearest examples', async () => {
  serve({
    'GET /api/messages/7/sorting': [{ ...unsure, unsure: false, categoryId: 'berth' }],
    'GET /api/sorters/4/reasons/7': {
      number: 3,
      sureties: [],
      explanation: {
        decision: { categoryId: 'berth', surety: 0.96, unsure: false },
        next: 'fuel',
        score: 1.75,
        start: -0.5,
        spoke: [{ words: 'mooring', weight: 2.5, evidence: [{}] }],
        rest: -0.25,
      },
      nearest: [
        {
          messageId: 9,
          subject: 'A berth',
          senderAddress: 'a@b.example',
          categoryId: 'berth',
          likeness: 0.51,
        },
      ],
    },
  });
  showAt('/mail', '/mail', () => <SortByHand messageId={7} />);
  await userEvent.click(await screen.findByText('Why?'));
  expect(await screen.findByText('Number 3 says', { exact: false })).toHaveTextContent(
    'Number 3 says Visitor berth, surety 96 %, rather than Fuel order.',
  );
  expect(screen.getByRole('row', { name: 'mooring +2.50' })).toBeVisible();
  expect(screen.getByRole('row', { name: 'together +1.75' })).toBeVisible();
  expect(screen.getByRole('link', { name: 'A berth' })).toBeVisible();
});
