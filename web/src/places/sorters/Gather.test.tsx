import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve, show } from '@/test-api';
import * as sending from '../mail/sendFile';
import { Gather } from './Gather';
import { view } from './made';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

it('labels what people put into a queue, after saying how many there are', async () => {
  const calls = serve({ 'POST /api/sorters/4/gather': 17 });
  show(<Gather view={view} open onClose={() => undefined} />);
  await screen.findByRole('option', { name: 'queue Large berths' });
  await userEvent.selectOptions(screen.getByLabelText('Messages in'), 'queue Large berths');
  await userEvent.selectOptions(screen.getByLabelText('Are'), 'Visitor berth');
  await userEvent.click(await screen.findByRole('button', { name: 'Label 17 messages' }));
  await vi.waitFor(() =>
    expect(
      calls
        .filter((c) => c.method === 'POST')
        .map((c) => c.body)
        .slice(0, 2),
    ).toEqual([
      { from: 'Queue', id: 2, categoryId: 'berth', most: 500, write: false },
      { from: 'Queue', id: 2, categoryId: 'berth', most: 500, write: true },
    ]),
  );
});

it('folders called like categories bring examples, others are named and left out', async () => {
  serve();
  const send = vi.spyOn(sending, 'sendFile').mockResolvedValue(undefined);
  show(<Gather view={view} open onClose={() => undefined} />);
  const file = (folder: string) =>
    Object.defineProperty(new File(['x'], 'one.eml'), 'webkitRelativePath', {
      value: `mail/${folder}/one.eml`,
    });
  await screen.findByRole('option', { name: 'Harbour' });
  await userEvent.upload(screen.getByLabelText('Folder'), [
    file('fuel order'),
    file('none-of-these'),
    file('Holidays'),
  ]);
  expect(await screen.findByText(/No category is called Holidays/)).toBeVisible();
  expect(send.mock.calls.map((c) => c[1].categoryId)).toEqual(['fuel', '']);
  expect(send.mock.calls[0]![1]).toMatchObject({ sorterId: '4', carryOut: 'false' });
});
