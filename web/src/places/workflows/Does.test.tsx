import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { afterEach, expect, it, vi } from 'vitest';
import type { Sheet } from '@/api/types';
import { serve, show } from '@/test-api';
import { Does } from './Does';
import { newCategory, newLine } from './sheet';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const category = { ...newCategory(), id: 'k1', name: 'Large vessel' };
const empty: Sheet = {
  addresses: [],
  takesIn: { all: [], any: [], none: [] },
  categories: [category],
  facts: [],
  lines: [],
  everyLine: false,
  sorterId: null,
  limits: { oneReplyPerSenderHours: 24, skipLaterWorkflows: true },
};
const first = { ...newLine(empty), id: 'l1' };
const second = { ...newLine({ ...empty, categories: [] }), id: 'l2' };

function edit(lines = [first, second]) {
  serve();
  let latest: Sheet = { ...empty, lines };
  function Holder() {
    const [sheet, setSheet] = useState(latest);
    return (
      <Does
        sheet={sheet}
        rehearsal={null}
        problems={new Map()}
        findings={[]}
        readOnly={false}
        onOpen={() => undefined}
        onChange={(s) => {
          latest = s;
          setSheet(s);
        }}
      />
    );
  }
  show(<Holder />);
  return () => latest;
}

it('a new line is for the category that has none', async () => {
  const latest = edit([]);
  await userEvent.click(screen.getByRole('button', { name: 'Add a line' }));
  expect(latest().lines[0]).toMatchObject({ case: 'Category', categoryId: 'k1' });
  expect(screen.getByRole('button', { name: 'Line 1, when' })).toHaveTextContent('Large vessel');
  expect(screen.getByRole('button', { name: 'Line 1, queue' })).toHaveTextContent('leave alone');
});

it('a queue is chosen by name and its due time said in words', async () => {
  const latest = edit();
  await userEvent.click(screen.getByRole('button', { name: 'Line 1, queue' }));
  await userEvent.click(await screen.findByRole('button', { name: 'Add a queue' }));
  await userEvent.selectOptions(await screen.findByLabelText('Place in the queue'), 'Large berths');
  expect(latest().lines[0]!.queues).toEqual([{ queueId: 2, dueInMinutes: 240 }]);
  const due = screen.getByLabelText('Due after arrival, in minutes');
  await userEvent.clear(due);
  expect(latest().lines[0]!.queues).toEqual([{ queueId: 2, dueInMinutes: null }]);
  await userEvent.type(due, '90');
  expect(latest().lines[0]!.queues[0]!.dueInMinutes).toBe(90);
  await userEvent.keyboard('{Escape}');
  expect(screen.getByRole('button', { name: 'Line 1, queue' })).toHaveTextContent(
    'Large berthsdue in 90 min',
  );
});

it('a reply begins as a draft for checking and can be sent after a while', async () => {
  const latest = edit();
  await userEvent.click(screen.getByRole('button', { name: 'Line 2, reply' }));
  await userEvent.click(await screen.findByRole('button', { name: 'Add a reply' }));
  expect(latest().lines[1]!.replies).toEqual([
    { templateId: 7, mode: 'Check', delayMinutes: 0, to: 'Sender' },
  ]);
  await userEvent.selectOptions(screen.getByLabelText('What becomes of it'), 'it is sent');
  await userEvent.type(screen.getByLabelText('After, in minutes'), '5');
  expect(latest().lines[1]!.replies[0]).toMatchObject({ mode: 'Send', delayMinutes: 5 });
  await userEvent.click(screen.getByRole('button', { name: 'Remove this reply' }));
  expect(latest().lines[1]!.replies).toEqual([]);
});

it('a cell holds several deeds, each queue once', async () => {
  const latest = edit();
  await userEvent.click(screen.getByRole('button', { name: 'Line 1, queue' }));
  await userEvent.click(await screen.findByRole('button', { name: 'Add a queue' }));
  await userEvent.click(screen.getByRole('button', { name: 'Add another queue' }));
  expect(latest().lines[0]!.queues.map((q) => q.queueId)).toEqual([1, 2]);
  expect(screen.queryByRole('button', { name: 'Add another queue' })).toBeNull();
});

it('endings of files are typed freely and tidied when left', async () => {
  const latest = edit();
  await userEvent.click(screen.getByRole('button', { name: 'Line 1, files' }));
  await userEvent.click(await screen.findByRole('button', { name: 'Add a folder' }));
  await userEvent.type(screen.getByLabelText('Only files ending in'), '.pdf, csv, ');
  await userEvent.tab();
  expect(latest().lines[0]!.files[0]!.onlyEndings).toEqual(['pdf', 'csv']);
});

it('lines are moved by the arrow keys on their handle', async () => {
  const latest = edit();
  screen.getByRole('button', { name: /Move line 1/ }).focus();
  await userEvent.keyboard('{ArrowDown}');
  expect(latest().lines.map((l) => l.id)).toEqual(['l2', 'l1']);
  screen.getByRole('button', { name: /Move line 1/ }).focus();
  await userEvent.keyboard('{ArrowUp}');
  expect(latest().lines.map((l) => l.id)).toEqual(['l2', 'l1']);
});

it('lines are copied, noted, switched off and removed', async () => {
  const latest = edit();
  await userEvent.click(screen.getByRole('button', { name: 'Line 1, when' }));
  await userEvent.type(await screen.findByLabelText('Note'), 'until spring');
  await userEvent.click(screen.getByRole('checkbox', { name: 'switched off' }));
  expect(latest().lines[0]).toMatchObject({ note: 'until spring', off: true });
  await userEvent.click(screen.getByRole('button', { name: 'Copy the line' }));
  expect(latest().lines).toHaveLength(3);
  expect(new Set(latest().lines.map((l) => l.id)).size).toBe(3);
  await userEvent.click(screen.getByRole('button', { name: 'Remove the line' }));
  expect(latest().lines.map((l) => l.id)).not.toContain('l1');
});

it('the first or every line that fits is carried out', async () => {
  const latest = edit();
  await userEvent.selectOptions(screen.getByLabelText('Which lines are carried out'), 'every line');
  expect(latest().everyLine).toBe(true);
});
