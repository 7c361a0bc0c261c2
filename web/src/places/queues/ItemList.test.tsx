import { cleanup, render, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import type { ItemRow } from '@/api/types';
import { ItemList } from './ItemList';

afterEach(cleanup);

const now = new Date(2026, 10, 25, 14, 0, 0);
const item = (id: number, minutes: number | null, more: Partial<ItemRow> = {}): ItemRow => ({
  id,
  queueId: 1,
  messageId: id,
  senderName: '',
  senderAddress: `s${id}@x.example`,
  subject: `Item ${id}`,
  attachmentCount: 0,
  placedAt: now.toISOString(),
  dueAt: minutes === null ? null : new Date(now.getTime() + minutes * 60000).toISOString(),
  state: 'Open',
  waitsUntil: null,
  takenBy: null,
  mine: false,
  ...more,
});

function list(items: ItemRow[]) {
  const onOpen = vi.fn();
  render(
    <ItemList
      queues={[
        {
          id: 1,
          name: 'Berthing desk',
          open: 3,
          overdue: 1,
          withinHour: 0,
          waiting: 0,
          untaken: 2,
          nextDue: null,
        },
      ]}
      queueId={1}
      items={items}
      all={items}
      doneToday={4}
      loading={false}
      show="open"
      chosen={1}
      now={now}
      onQueue={() => undefined}
      onShow={() => undefined}
      onOpen={onOpen}
    />,
  );
  return onOpen;
}

it('items stand in groups by due time, the most pressing first, time left first in the row', () => {
  list([item(1, -12), item(2, 38), item(3, null), item(4, 30 * 60)]);
  expect(screen.getAllByRole('heading').map((h) => h.textContent)).toEqual([
    'Overdue 1',
    'Within the hour 1',
    'Tomorrow 1',
    'No due time 1',
  ]);
  expect(
    within(screen.getByRole('region'))
      .getAllByRole('button')
      .map((b) => b.textContent!.slice(0, 6)),
  ).toEqual(['−12 mI', '38 mIt', '30 h 0', '—Item ']);
});

it('says who has taken an item and which one is open', () => {
  list([item(1, 5, { takenBy: 'Nell', mine: true }), item(2, 5, { takenBy: 'Sten Ravn' })]);
  expect(screen.getByRole('button', { name: /Item 1/ })).toHaveTextContent('you');
  expect(screen.getByRole('button', { name: /Item 2/ })).toHaveTextContent('Sten Ravn');
  expect(screen.getByRole('button', { name: /Item 1/ })).toHaveAttribute('aria-current', 'true');
});

it('opens what is pressed, and says when there is nothing', async () => {
  const onOpen = list([item(2, 5)]);
  await userEvent.click(screen.getByRole('button', { name: /Item 2/ }));
  expect(onOpen).toHaveBeenCalledWith(2);
  cleanup();
  list([]);
  expect(screen.getByText('Nothing here.')).toBeVisible();
});

it('a message without a subject or a sender’s name still has a row to press', () => {
  list([item(5, 5, { subject: '', attachmentCount: 2 })]);
  expect(screen.getByRole('button', { name: /no subject/ })).toHaveTextContent('s5@x.example · 2 files');
});
