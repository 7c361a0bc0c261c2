import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { afterEach, expect, it, vi } from 'vitest';
import type { Rehearsal } from '@/api/types';
import { serve, show } from '@/test-api';
import { Differences, RehearsalPanel, type Selection } from './RehearsalPanel';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const rehearsal = {
  id: 'r1',
  edition: 8,
  revision: 1,
  hasLive: true,
  from: null,
  until: null,
  milliseconds: 210,
  summary: {
    messages: 1962,
    takenIn: 214,
    leftAlone: 1700,
    skipped: 48,
    nearMisses: 3,
    changes: 6,
    withoutLine: 0,
    categories: {},
    noneOfThese: 0,
    lines: {},
    conditions: {},
    deeds: {},
    heldReplies: 9,
    skippedDeeds: 0,
    days: [{ day: '2026-11-24', takenIn: 214, leftAlone: 1748, changed: 6 }],
  },
} as unknown as Rehearsal;

const row = {
  messageId: 77,
  arrivedAt: '2026-11-24T09:12:00Z',
  senderName: '',
  senderAddress: 'agency@norrland.example',
  subject: 'MV Anneliese',
  outcome: 'TakenIn',
  nearMiss: false,
  changed: true,
  categoryId: null,
  lineId: 'l1',
  why: 'place in Large berths',
  differences: [{ what: 'Place', before: 'place in Berthing desk', after: 'place in Large berths' }],
};

const opened = {
  message: {
    id: 77,
    subject: 'MV Anneliese',
    from: { name: '', address: 'agency@norrland.example' },
    to: [],
    cc: [],
    originallyTo: ['berths@saltmarrow.example'],
    body: {
      text: 'A berth please.\n> old',
      stretches: [
        { kind: 'New', start: 0, length: 16 },
        { kind: 'Quoted', start: 16, length: 5 },
      ],
    },
    attachments: [],
    automatic: [],
  },
  live: null,
  inHand: {
    outcome: 'TakenIn',
    nearMiss: false,
    reasons: [
      {
        text: 'body contains “berth”',
        evidence: [{ place: 'Body', start: 2, length: 5, text: 'berth', index: 0 }],
      },
    ],
    deeds: [
      {
        kind: 'Reply',
        says: 'send “Received”',
        skippedBecause: 'this sender was answered less than 24 h before',
        heldBecause: null,
      },
    ],
    facts: [],
  },
  differences: [],
};

function Panel({ first }: { first: Selection }) {
  const [selection, select] = useState(first);
  return (
    <RehearsalPanel
      rehearsal={rehearsal}
      rehearsing={false}
      span={30}
      onSpan={() => undefined}
      selection={selection}
      onSelect={select}
    />
  );
}

it('balances, and every count opens its messages', async () => {
  const calls = serve({ 'GET /api/rehearsals/r1/messages': { messages: [row], total: 1 } });
  show(<Panel first={{ view: 'Changes', title: 'Changes' }} />);
  expect(screen.getByText(/1,962 = 214 taken in \+ 1,700 left alone \+ 48 skipped/)).toBeVisible();
  expect(screen.getByText('1,962 in 0.21 s')).toBeVisible();
  await userEvent.click(screen.getByRole('tab', { name: 'Near misses 3' }));
  await userEvent.click(screen.getByRole('button', { name: '9 replies would wait for a person.' }));
  expect(screen.getByRole('tab', { name: 'Replies that would wait' })).toHaveAttribute(
    'aria-selected',
    'true',
  );
  await vi.waitFor(() =>
    expect(
      calls
        .filter((c) => c.path.startsWith('/api/rehearsals'))
        .map((c) => new URLSearchParams(c.path.split('?')[1]).get('view')),
    ).toEqual(['Changes', 'NearMisses', 'HeldReplies']),
  );
});

it('a message opens in place with its words marked and what would become of its deeds', async () => {
  serve({
    'GET /api/rehearsals/r1/messages': { messages: [row], total: 1 },
    'GET /api/rehearsals/r1/messages/77': opened,
  });
  show(<Panel first={{ view: 'TakenIn', title: 'Taken in' }} />);
  await userEvent.click(await screen.findByRole('button', { name: /MV Anneliese/ }));
  const marked = await screen.findAllByText('berth', { selector: 'mark' });
  expect(marked.length).toBeGreaterThan(0);
  expect(screen.queryByText(/> old/)).toBeNull();
  expect(screen.getByText(/skipped: this sender was answered less than 24 h before/)).toBeVisible();
});

it('no change is said in a sentence', async () => {
  serve({ 'GET /api/rehearsals/r1/messages': { messages: [], total: 0 } });
  show(<Panel first={{ view: 'Changes', title: 'Changes' }} />);
  expect(await screen.findByText(/To no past message would anything else happen/)).toBeVisible();
});

it('without past mail it says where some could come from', async () => {
  serve({ 'GET /api/rehearsals/r1/messages': { messages: [], total: 0 } });
  const none = { ...rehearsal, summary: { ...rehearsal.summary, messages: 0, days: [] } } as Rehearsal;
  show(
    <RehearsalPanel
      rehearsal={none}
      rehearsing={false}
      span={30}
      onSpan={() => undefined}
      selection={{ view: 'TakenIn', title: 'Taken in' }}
      onSelect={() => undefined}
    />,
  );
  expect(await screen.findByText(/There is no past mail in this span/)).toBeVisible();
});

it('a rehearsal that is no longer kept says what to do', async () => {
  serve({ 'GET /api/rehearsals/r1/messages': new Error('This rehearsal is no longer kept. Run it again.') });
  show(<Panel first={{ view: 'TakenIn', title: 'Taken in' }} />);
  expect(await screen.findByRole('alert')).toHaveTextContent('Run it again.');
});

it('a difference shows the old value struck out and the new one in bold, also to a screen reader', () => {
  show(
    <Differences
      list={[
        { what: 'Place', before: 'place in A', after: 'place in B' },
        { what: 'Reply', before: null, after: 'send “R”' },
        { what: 'File', before: 'file 1', after: null },
      ]}
    />,
  );
  expect(screen.getByText('place in A', { exact: false }).closest('del')).not.toBeNull();
  expect(screen.getByText('place in B').tagName).toBe('STRONG');
  expect(document.querySelectorAll('del > .sr-only')).toHaveLength(2);
  expect(screen.getByText('send “R”').parentElement).toHaveTextContent('+ send “R”');
  expect(screen.getByText('→ nothing')).toBeVisible();
});
