import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import type { Expectation, Rehearsal, Sheet, Verdict } from '@/api/types';
import { serve, show } from '@/test-api';
import { messageRow, verdict } from '@/test-made';
import { showAt } from '@/test-routed';
import { AskAboutExamples, Examples } from './Examples';
import { expectationWords, Judge } from './Judge';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const sheet = { lines: [] } as unknown as Sheet;
const small = {
  text: 'add “mooring” to the list Berthing words',
  sheet,
  listAdditions: [{ keywordListId: 5, word: 'mooring' }],
  also: 2,
  alsoTakes: [messageRow],
};

function open(
  more: { verdict?: Verdict; changed?: boolean; example?: Expectation | null; small?: unknown } = {},
) {
  const calls = serve({
    'POST /api/workflows/3/examples': {},
    'DELETE /api/workflows/3/examples/7': null,
    'GET /api/workflows/3/smallest-changes': more.small ?? [small],
    'POST /api/setup/keyword-lists/5/words': {},
  });
  const onSheet = vi.fn();
  showAt('/workflows', '/workflows', () => (
    <Judge
      workflowId={3}
      rehearsal={{ id: 'r1' } as unknown as Rehearsal}
      messageId={7}
      verdict={more.verdict ?? verdict}
      changed={more.changed ?? false}
      example={more.example ?? null}
      days={90}
      onSheet={onSheet}
    />
  ));
  return { calls, onSheet };
}

const left = { ...verdict, outcome: 'LeftAlone' } as Verdict;

it('what is taken in may be meant so or not, and is kept as an example', async () => {
  const { calls } = open();
  await userEvent.click(await screen.findByRole('button', { name: 'should have been left alone' }));
  expect(screen.queryByRole('button', { name: 'should have been taken' })).toBeNull();
  await vi.waitFor(() =>
    expect(calls.find((c) => c.method === 'POST')?.body).toEqual({
      rehearsalId: 'r1',
      messageId: 7,
      mark: 'ShouldBeLeft',
    }),
  );
});

it('what should have been taken shows the smallest changes, what else they bring, and makes one', async () => {
  const { calls, onSheet } = open({ verdict: left });
  await userEvent.click(await screen.findByRole('button', { name: 'should have been taken' }));
  expect(await screen.findByText(small.text)).toBeVisible();
  expect(screen.getByText('The list is shared with other workflows.')).toBeVisible();
  await userEvent.click(screen.getByRole('button', { name: 'and 2 more' }));
  expect(screen.getByText('A berth for a week')).toBeVisible();
  await userEvent.click(screen.getByRole('button', { name: 'Change it' }));
  await vi.waitFor(() => expect(onSheet).toHaveBeenCalledWith(sheet));
  expect(calls.find((c) => c.path === '/api/setup/keyword-lists/5/words')?.body).toEqual({ name: 'mooring' });
});

it('says so when no small change would do', async () => {
  open({ verdict: left, example: { takenIn: true, category: null } as unknown as Expectation, small: [] });
  expect(await screen.findByText(/No small change would take it/)).toBeVisible();
});

it('a kept example says what it expects and is let go', async () => {
  const { calls } = open({
    changed: true,
    example: { takenIn: true, category: 'Visitor berth' } as unknown as Expectation,
  });
  expect(await screen.findByText(/kept: taken in, Visitor berth/)).toBeVisible();
  expect(screen.getByRole('button', { name: 'wrong' })).toBeVisible();
  await userEvent.click(screen.getByRole('button', { name: 'Let go' }));
  await vi.waitFor(() => expect(calls.some((c) => c.method === 'DELETE')).toBe(true));
});

it('what an earlier workflow took is not judged here', async () => {
  open({ verdict: left });
  expect(await screen.findByText('This is')).toBeVisible();
  cleanup();
  open({ verdict: { ...verdict, outcome: 'Skipped' } as Verdict });
  await new Promise((done) => setTimeout(done, 100));
  expect(screen.queryByText('This is')).toBeNull();
});

it('expectations are said in words', () => {
  expect(expectationWords({ takenIn: false, category: null } as unknown as Expectation)).toBe('left alone');
  expect(expectationWords({ takenIn: true, category: '' } as unknown as Expectation)).toBe(
    'taken in, none of these',
  );
});

const kept = {
  message: messageRow,
  expected: { takenIn: true, category: null },
  keptBy: 'Bram',
  keptAt: '2026-11-20T09:00:00Z',
  differences: [],
};
const broken = {
  ...kept,
  message: { ...messageRow, id: 8, subject: 'Diesel' },
  differences: [{ kind: 'LeftNow', before: 'taken in', after: 'left alone' }],
};

it('kept examples say whether the sheet holds them', async () => {
  serve({ 'GET /api/workflows/3/examples': [kept] });
  show(<Examples workflowId={3} rehearsal="r1" readOnly />);
  expect(await screen.findByText('holds')).toBeVisible();
  expect(screen.getByText(/kept by Bram/)).toBeVisible();
  expect(screen.queryByRole('button', { name: 'Let go' })).toBeNull();
  cleanup();
  serve({ 'GET /api/workflows/3/examples': [] });
  show(<Examples workflowId={3} rehearsal="r1" readOnly={false} />);
  expect(await screen.findByText(/No message is kept yet/)).toBeVisible();
});

it('going live against a kept example asks first', async () => {
  const [onClose, onGoLive] = [vi.fn(), vi.fn()];
  show(<AskAboutExamples examples={[broken as never]} open onClose={onClose} onGoLive={onGoLive} />);
  const dialog = screen.getByRole('dialog', { name: 'A kept example fails' });
  expect(within(dialog).getByText('Diesel')).toBeVisible();
  await userEvent.click(within(dialog).getByRole('button', { name: 'Go on changing it' }));
  expect(onClose).toHaveBeenCalled();
  await userEvent.click(within(dialog).getByRole('button', { name: 'Put it live all the same' }));
  expect(onGoLive).toHaveBeenCalled();
});
