import { act, cleanup, renderHook, waitFor } from '@testing-library/react';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { afterEach, expect, it, vi } from 'vitest';
import type { WorkflowView } from '@/api/types';
import { serve } from '@/test-api';
import { useSheet } from './useSheet';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const view: WorkflowView = {
  id: 3,
  name: 'Berths',
  paused: false,
  number: 2,
  state: 'InHand',
  revision: 4,
  editions: [],
  problems: [],
  changesToLive: [],
  findings: [],
  sheet: {
    addresses: [],
    takesIn: { all: [], any: [], none: [] },
    categories: [],
    facts: [],
    lines: [],
    everyLine: false,
    sorterId: null,
    limits: { oneReplyPerSenderHours: 24, skipLaterWorkflows: true },
  },
};

const with_ = (...facts: string[]) => ({ ...view.sheet, facts });

function use(answers: Record<string, unknown>) {
  const calls = serve({ 'POST /api/workflows/3/rehearsal': { id: 'r' }, ...answers });
  const client = new QueryClient();
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={client}>{children}</QueryClientProvider>
  );
  return { calls, hook: renderHook(() => useSheet(view, 30), { wrapper }) };
}

it('edits in quick succession are saved once, on the revision they were made on, and rehearsed', async () => {
  const { calls, hook } = use({
    'PUT /api/workflows/3/sheet': { ...view, revision: 5, sheet: with_('a', 'b') },
  });
  act(() => hook.result.current.change(with_('a')));
  act(() => hook.result.current.change(with_('a', 'b')));
  expect(hook.result.current.sheet.facts).toEqual(['a', 'b']);
  await waitFor(() => expect(hook.result.current.state).toBe('saved'));
  await waitFor(() => expect(calls.filter((c) => c.method === 'PUT')).toHaveLength(1));
  expect(calls.find((c) => c.method === 'PUT')!.body).toMatchObject({
    number: 2,
    revision: 4,
    sheet: { facts: ['a', 'b'] },
  });
  await waitFor(() =>
    expect(calls.filter((c) => c.path.includes('rehearsal?days=30')).length).toBeGreaterThanOrEqual(2),
  );
});

it('undo and redo walk through the edits', async () => {
  const { hook } = use({ 'PUT /api/workflows/3/sheet': view });
  act(() => hook.result.current.change(with_('a')));
  act(() => hook.result.current.change(with_('b')));
  act(() => hook.result.current.undo());
  expect(hook.result.current.sheet.facts).toEqual(['a']);
  act(() => hook.result.current.undo());
  expect(hook.result.current.sheet.facts).toEqual([]);
  act(() => hook.result.current.redo());
  expect(hook.result.current.sheet.facts).toEqual(['a']);
  act(() => hook.result.current.change(with_('c')));
  act(() => hook.result.current.redo());
  expect(hook.result.current.sheet.facts).toEqual(['c']);
});

it('when somebody else changed the sheet, theirs is shown', async () => {
  const theirs = { ...view, revision: 9, sheet: with_('theirs') };
  const { hook } = use({
    'PUT /api/workflows/3/sheet': new Error('Somebody else changed this sheet.'),
    'GET /api/workflows/3': theirs,
  });
  act(() => hook.result.current.change(with_('mine')));
  await waitFor(() => expect(hook.result.current.sheet.facts).toEqual(['theirs']));
  expect(hook.result.current.view.revision).toBe(9);
});

it('leaving the page sends what has not been sent', async () => {
  const { calls, hook } = use({ 'PUT /api/workflows/3/sheet': view });
  act(() => hook.result.current.change(with_('last')));
  hook.unmount();
  await waitFor(() => expect(calls.some((c) => c.method === 'PUT')).toBe(true));
});
