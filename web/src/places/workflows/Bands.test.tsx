import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { afterEach, expect, it, vi } from 'vitest';
import type { Rehearsal, Sheet } from '@/api/types';
import { serve, show } from '@/test-api';
import { LimitsBand, ReadsOut, SortsInto, TakesIn, type BandProps } from './Bands';
import { newCategory, newLine } from './sheet';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const category = { ...newCategory(), id: 'k1', name: 'Large' };
const first: Sheet = {
  addresses: ['berths@saltmarrow.example'],
  takesIn: { all: [], any: [], none: [] },
  categories: [category],
  facts: ['subject'],
  lines: [newLine({ categories: [category], lines: [] } as never)],
  everyLine: false,
  sorterId: null,
  limits: { oneReplyPerSenderHours: 24, skipLaterWorkflows: true },
};
const rehearsal = {
  summary: { takenIn: 12, messages: 40, conditions: {}, categories: { k1: 9 }, noneOfThese: 3 },
} as unknown as Rehearsal;

function edit(Band: (props: BandProps) => React.ReactNode) {
  serve();
  let latest = first;
  const opened: unknown[][] = [];
  function Holder() {
    const [sheet, setSheet] = useState(first);
    return (
      <Band
        sheet={sheet}
        rehearsal={rehearsal}
        problems={new Map()}
        findings={[]}
        readOnly={false}
        onOpen={(...o) => opened.push(o)}
        onChange={(s) => {
          latest = s;
          setSheet(s);
        }}
      />
    );
  }
  show(<Holder />);
  return { latest: () => latest, opened };
}

it('addresses are chosen from those that are set up', async () => {
  const { latest, opened } = edit(TakesIn);
  await userEvent.click(screen.getByRole('button', { name: '12 of 40' }));
  expect(opened).toEqual([['TakenIn', undefined, 'Taken in']]);
  await userEvent.click(screen.getByRole('button', { name: 'Addresses' }));
  await userEvent.click(await screen.findByRole('checkbox', { name: 'fuel@saltmarrow.example' }));
  expect(latest().addresses).toEqual(['berths@saltmarrow.example', 'fuel@saltmarrow.example']);
  await userEvent.click(screen.getByRole('checkbox', { name: 'berths@saltmarrow.example' }));
  expect(latest().addresses).toEqual(['fuel@saltmarrow.example']);
});

it('a category is named in place, its count opens its messages, and it goes with its lines', async () => {
  const { latest, opened } = edit(SortsInto);
  await userEvent.click(screen.getByRole('button', { name: '9 messages: Large' }));
  await userEvent.click(screen.getByRole('button', { name: '3 messages: None of these' }));
  expect(opened.map((o) => o[0])).toEqual(['Category', 'NoneOfThese']);
  await userEvent.click(screen.getByRole('button', { name: 'Large' }));
  await userEvent.type(screen.getByLabelText('Name of the category'), ' berth');
  expect(latest().categories[0]!.name).toBe('Large berth');
  await userEvent.click(screen.getByRole('button', { name: 'Remove with its lines' }));
  expect([latest().categories.length, latest().lines.length]).toEqual([0, 0]);
});

it('facts are switched on and off', async () => {
  const { latest } = edit(ReadsOut);
  await userEvent.click(await screen.findByRole('button', { name: 'sender name' }));
  expect(latest().facts).toEqual(['subject', 'sender_name']);
  await userEvent.click(screen.getByRole('button', { name: 'subject' }));
  expect(latest().facts).toEqual(['sender_name']);
});

it('limits can be lifted and changed, but never below an hour', async () => {
  const { latest } = edit(LimitsBand);
  await userEvent.click(screen.getByRole('checkbox', { name: /one reply per sender/ }));
  expect(latest().limits.oneReplyPerSenderHours).toBeNull();
  expect(screen.getByLabelText('Hours between replies to one sender')).toBeDisabled();
  await userEvent.click(screen.getByRole('checkbox', { name: /one reply per sender/ }));
  await userEvent.type(screen.getByLabelText('Hours between replies to one sender'), '{selectall}0');
  expect(latest().limits.oneReplyPerSenderHours).toBeGreaterThanOrEqual(1);
  await userEvent.click(screen.getByRole('checkbox', { name: 'later workflows are skipped' }));
  expect(latest().limits.skipLaterWorkflows).toBe(false);
});
