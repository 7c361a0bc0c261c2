import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { afterEach, expect, it, vi } from 'vitest';
import type { ConditionSet } from '@/api/types';
import { serve, show } from '@/test-api';
import { ConditionEditor } from './ConditionEditor';
import { newCondition } from './conditions';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

function edit(first: Partial<ConditionSet>, readOnly = false) {
  serve();
  let latest: ConditionSet = { all: [], any: [], none: [], ...first };
  const opened: string[] = [];
  function Holder() {
    const [set, setSet] = useState(latest);
    return (
      <ConditionEditor
        set={set}
        readOnly={readOnly}
        problems={new Map([['c1', 'It is compared with nothing yet.']])}
        count={() => 42}
        onCount={(id) => opened.push(id)}
        onChange={(s) => {
          latest = s;
          setSet(s);
        }}
      />
    );
  }
  show(<Holder />);
  return { latest: () => latest, opened };
}

const c1 = { ...newCondition(), id: 'c1' };

it('a condition is added under the group it was asked for', async () => {
  const { latest } = edit({});
  await userEvent.click(screen.getByRole('button', { name: '+ unless' }));
  expect(latest().none).toHaveLength(1);
  expect(latest().all).toHaveLength(0);
});

it('values are typed as they come and read at every keystroke', async () => {
  const { latest } = edit({ all: [c1] });
  const field = screen.getByLabelText('Values, separated by commas');
  await userEvent.type(field, 'berth, mo');
  expect(latest().all[0]!.values).toEqual(['berth', 'mo']);
  expect(field).toHaveValue('berth, mo');
  await userEvent.type(field, ', ');
  expect(field).toHaveValue('berth, mo, ');
  await userEvent.tab();
  expect(field).toHaveValue('berth, mo');
});

it('asking for a keyword list chooses the first one', async () => {
  const { latest } = edit({ any: [c1] });
  await screen.findByRole('option', { name: 'has any word in' });
  await vi.waitFor(async () => {
    await userEvent.selectOptions(screen.getByLabelText('How to compare'), 'has any word in');
    expect(screen.getByLabelText('Keyword list')).toHaveDisplayValue('Berthing words · 2');
  });
  expect(latest().any[0]).toMatchObject({ test: 'HasAnyWordIn', keywordListId: 5 });
});

it('automatic mail offers its kinds, and each can be chosen and let go', async () => {
  const { latest } = edit({ none: [c1] });
  await userEvent.selectOptions(screen.getByLabelText('What to look at'), 'automatic mail');
  const kinds = within(screen.getByRole('group', { name: /Kinds of automatic mail/ }));
  await userEvent.click(kinds.getByRole('button', { name: 'bounce' }));
  expect(latest().none[0]).toMatchObject({ part: 'Automatic', test: 'Present', kinds: ['Bounce'] });
  expect(kinds.getByRole('button', { name: 'bounce' })).toHaveAttribute('aria-pressed', 'true');
  await userEvent.click(kinds.getByRole('button', { name: 'bounce' }));
  expect(latest().none[0]!.kinds).toEqual([]);
});

it('a condition is removed alone', async () => {
  const { latest } = edit({ all: [c1, { ...newCondition(), id: 'c2' }] });
  await userEvent.click(screen.getAllByRole('button', { name: 'Remove this condition' })[0]!);
  expect(latest().all.map((c) => c.id)).toEqual(['c2']);
});

it('a count opens its messages, and a problem stands at its condition', async () => {
  const { opened } = edit({ none: [c1] });
  expect(screen.getByText('It is compared with nothing yet.')).toBeVisible();
  await userEvent.click(screen.getByRole('button', { name: '−42' }));
  expect(opened).toEqual(['c1']);
});

it('who may not change it can only look', () => {
  edit({ all: [c1] }, true);
  expect(screen.getByLabelText('What to look at')).toBeDisabled();
  expect(screen.getByLabelText('Values, separated by commas')).toBeDisabled();
  expect(screen.queryByRole('button', { name: 'Remove this condition' })).toBeNull();
  expect(screen.queryByRole('button', { name: '+ all of' })).toBeNull();
});
