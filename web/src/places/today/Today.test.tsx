import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import type { TodayView } from '@/api/types';
import { serve } from '@/test-api';
import { showAt } from '@/test-routed';
import { Today } from './Today';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const today: TodayView = {
  now: '2026-11-25T12:00:00Z',
  days: [{ day: '2026-11-25', takenIn: 7, leftAlone: 2, copies: 1, unreadable: 0, all: 10 }],
  hours: Array.from({ length: 24 }, (_, i) => ({
    hour: new Date(Date.UTC(2026, 10, 24, 13 + i)).toISOString(),
    cameIn: i,
    takenIn: i,
    waiting: 3,
  })),
  deeds: { all: 9, done: 5, waiting: 2, stuck: 1, skipped: 1 },
  notPlannedYet: 0,
  queues: [
    {
      id: 2,
      name: 'Large berths',
      open: 4,
      overdue: 2,
      withinHour: 0,
      waiting: 0,
      untaken: 1,
      nextDue: '2026-11-25T12:38:00Z',
    },
  ],
  workflows: [{ id: 3, name: 'Berth requests', messages: 6, done: 5, waiting: 2, stuck: 1, skipped: 1 }],
  needsPerson: [
    { kind: 'checking', count: 2, text: 'replies wait for checking', oldest: '2026-11-25T11:34:00Z' },
  ],
  mailboxes: [],
  latest: [],
};

it('every count that can be opened leads to what is behind it', async () => {
  serve({ 'GET /api/today': today });
  showAt('/', '/', Today);
  expect(await screen.findByText('4 items wait for people.')).toBeVisible();
  expect(screen.getByRole('link', { name: 'Check' })).toHaveAttribute('href', '/replies?show=Checking');
  expect(screen.getByRole('link', { name: 'Large berths' })).toHaveAttribute('href', '/queues?queue=2');
  expect(screen.getByRole('link', { name: '6' })).toHaveAttribute('href', '/mail?workflow=3');
  expect(within(screen.getByRole('row', { name: /Large berths/ })).getByText('38 m')).toBeVisible();
});

it('says its balance in one sentence', async () => {
  serve({ 'GET /api/today': today });
  showAt('/', '/', Today);
  expect(await screen.findByText(/10 came in = 7 taken in \+ 2 left alone \+ 1 copies/)).toHaveTextContent(
    '9 deeds = 5 done + 2 waiting + 1 stuck + 1 skipped',
  );
});

it('the chart says in words what it shows', async () => {
  serve({ 'GET /api/today': today });
  showAt('/', '/', Today);
  expect(
    await screen.findByRole('img', {
      name: 'In the last 24 hours 276 messages came in; 3 queue items wait now.',
    }),
  ).toBeVisible();
});

it('what is stuck, held or cannot be read leads to where it is settled', async () => {
  const need = (kind: string, text: string) => ({ kind, count: 2, text, oldest: null });
  serve({
    'GET /api/today': {
      ...today,
      needsPerson: [
        need('mailbox', 'mailboxes cannot be read'),
        need('stuck', 'deeds are stuck'),
        need('held', 'messages are held'),
      ],
    },
  });
  showAt('/', '/', Today);
  const at = async (text: string) =>
    within((await screen.findByText(text)).closest('div')!)
      .getByRole('link')
      .getAttribute('href');
  expect(await at('deeds are stuck')).toBe('/log?tab=deeds&outcome=Stuck');
  expect(await at('mailboxes cannot be read')).toBe('/log?outcome=Failed');
  expect(await at('messages are held')).toBe('/mail?show=Held');
});

it('says of each mailbox when it was looked at, what is behind, and what is wrong in words', async () => {
  const health = {
    lastLookAt: today.now,
    nextLookAt: today.now,
    behind: 0,
    pushed: true,
    paused: false,
    problem: null,
    detail: null,
    problemSince: null,
    failures: 0,
  };
  serve({
    'GET /api/today': {
      ...today,
      mailboxes: [
        { id: 1, name: 'Harbour office', health },
        {
          id: 2,
          name: 'Accounts',
          health: { ...health, problem: 'Nothing answers at mail:993', failures: 3, pushed: false },
        },
        { id: 3, name: 'Events', health: { ...health, behind: 1200, pushed: false } },
      ],
    },
  });
  showAt('/', '/', Today);
  expect(await screen.findByText(/The server tells of new mail by itself/)).toBeVisible();
  expect(screen.getByText(/Nothing answers at mail:993. 3 tries failed; the next one is at/)).toBeVisible();
  expect(screen.getByText(/1,200 messages wait for the next look. Next look at/)).toBeVisible();
});

it('an empty office says what belongs here and the next step', async () => {
  serve({ 'GET /api/today': { ...today, queues: [], workflows: [], needsPerson: [], days: [] } });
  showAt('/', '/', Today);
  expect(await screen.findByText('Nothing waits for people.')).toBeVisible();
  expect(screen.getByText('Nothing does just now.')).toBeVisible();
  expect(screen.getByRole('link', { name: 'Begin one' })).toHaveAttribute('href', '/workflows');
});
