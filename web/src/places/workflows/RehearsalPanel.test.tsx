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
  shortfall: null,
  exampleHolds: null,
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
  shortfall: null,
  example: null,
};

const kept = { 'GET /api/workflows/3/examples': [] };
const near = vi.fn();
const rest = { workflowId: 3, onSheet: () => undefined, onNear: near, readOnly: false };

function Panel({ first }: { first: Selection }) {
  const [selection, select] = useState(first);
  return (
    <RehearsalPanel
      {...rest}
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
  const calls = serve({ ...kept, 'GET /api/rehearsals/r1/messages': { messages: [row], total: 1 } });
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
    ...kept,
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
  serve({ ...kept, 'GET /api/rehearsals/r1/messages': { messages: [], total: 0 } });
  show(<Panel first={{ view: 'Changes', title: 'Changes' }} />);
  expect(await screen.findByText(/To no past message would anything else happen/)).toBeVisible();
});

it('without past mail it says where some could come from', async () => {
  serve({ ...kept, 'GET /api/rehearsals/r1/messages': { messages: [], total: 0 } });
  const none = { ...rehearsal, summary: { ...rehearsal.summary, messages: 0, days: [] } } as Rehearsal;
  show(
    <RehearsalPanel
      {...rest}
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
  serve({
    ...kept,
    'GET /api/rehearsals/r1/messages': new Error('This rehearsal is no longer kept. Run it again.'),
  });
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

it('a message left alone is marked as one that should have been taken, and the smallest changes are offered', async () => {
  const alone = { ...opened, inHand: { ...opened.inHand, outcome: 'LeftAlone', deeds: [], reasons: [] } };
  const calls = serve({
    ...kept,
    'GET /api/rehearsals/r1/messages': {
      messages: [{ ...row, outcome: 'LeftAlone', changed: false }],
      total: 1,
    },
    'GET /api/rehearsals/r1/messages/77': alone,
    'POST /api/workflows/3/examples': {},
    'GET /api/workflows/3/smallest-changes': [
      {
        text: 'the word “avocet” in “Berthing words”',
        sheet: { lines: [] },
        listAdditions: [{ keywordListId: 5, word: 'avocet' }],
        also: 1,
        alsoTakes: [],
      },
    ],
    'POST /api/setup/keyword-lists/5/words': {},
  });
  show(<Panel first={{ view: 'LeftAlone', title: 'Left alone' }} />);
  await userEvent.click(await screen.findByRole('button', { name: /MV Anneliese/ }));
  await userEvent.click(await screen.findByRole('button', { name: 'should have been taken' }));
  await userEvent.click(await screen.findByRole('button', { name: 'Change it' }));
  await vi.waitFor(() =>
    expect(calls.filter((c) => c.method === 'POST').map((c) => c.body)).toEqual([
      { rehearsalId: 'r1', messageId: 77, mark: 'ShouldBeTaken' },
      { name: 'avocet' },
    ]),
  );
  expect(screen.getByText('and 1 more')).toBeVisible();
});

it('a near miss says by how little, and its condition is marked on the sheet', async () => {
  const shortfall = {
    conditionId: 'c9',
    text: 'subject contains “berth”',
    byHowLittle: '“bertj” is one letter off “berth”',
    evidence: null,
  };
  serve({
    ...kept,
    'GET /api/rehearsals/r1/messages': { messages: [{ ...row, nearMiss: true, shortfall }], total: 1 },
    'GET /api/rehearsals/r1/messages/77': { ...opened, shortfall },
  });
  show(<Panel first={{ view: 'NearMisses', title: 'Near misses' }} />);
  await userEvent.click(await screen.findByRole('button', { name: /MV Anneliese/ }));
  expect(await screen.findByText(/It missed by one condition/)).toHaveTextContent('one letter off');
  expect(near).toHaveBeenLastCalledWith('c9');
});

it('kept examples that fail are counted and told', async () => {
  serve({
    'GET /api/rehearsals/r1/messages': { messages: [], total: 0 },
    'GET /api/workflows/3/examples': [
      {
        message: {
          id: 1,
          arrivedAt: '2026-11-24T09:12:00Z',
          senderAddress: 'a@b.example',
          subject: 'Kept one',
        },
        expected: { takenIn: true, category: null, deeds: null },
        differences: [{ what: 'outcome', before: 'taken in', after: 'left alone' }],
        keptBy: 'Nell',
        keptAt: '2026-11-24T09:12:00Z',
      },
    ],
  });
  show(<Panel first={{ view: 'TakenIn', title: 'Taken in' }} />);
  await userEvent.click(await screen.findByRole('tab', { name: 'Kept, failing 1' }));
  expect(await screen.findByText('Kept one')).toBeVisible();
  expect(screen.getByText('fails')).toBeVisible();
});
