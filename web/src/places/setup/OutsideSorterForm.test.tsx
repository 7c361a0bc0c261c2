import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve, show } from '@/test-api';
import { OutsideSorterForm } from './OutsideSorterForm';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const record = { on: false, address: '', model: '', hasKey: true, mostCharacters: 2000, timeoutSeconds: 10 };

function open(more: Record<string, unknown> = {}, may = true) {
  const calls = serve({
    'GET /api/setup/outside-sorter': record,
    'PUT /api/setup/outside-sorter': {},
    ...more,
  });
  show(<OutsideSorterForm may={may} />);
  return () => calls.find((c) => c.method === 'PUT')?.body;
}

it('it is off, and is saved as it is filled in; a kept key is not sent again', async () => {
  const saved = open();
  const on = await screen.findByLabelText('the outside sorter may be asked');
  expect(on).not.toBeChecked();
  expect(screen.getByLabelText(/^Key/)).toHaveAttribute(
    'placeholder',
    'a key is kept; leave empty to keep it',
  );
  await userEvent.click(on);
  await userEvent.type(screen.getByLabelText(/^Address/), 'http://127.0.0.1:7181/v1');
  await userEvent.type(screen.getByLabelText(/^Model/), 'small');
  await userEvent.click(screen.getByRole('button', { name: 'Save' }));
  await vi.waitFor(() =>
    expect(saved()).toEqual({
      on: true,
      address: 'http://127.0.0.1:7181/v1',
      model: 'small',
      key: null,
      mostCharacters: 2000,
      timeoutSeconds: 10,
    }),
  );
});

it('a new key goes with it, and what is wrong is said', async () => {
  const saved = open({ 'PUT /api/setup/outside-sorter': new Error('The address must begin with http.') });
  await userEvent.type(await screen.findByLabelText(/^Key/), 'k1');
  await userEvent.click(screen.getByRole('button', { name: 'Save' }));
  expect(await screen.findByText(/must begin with http/)).toBeVisible();
  expect(saved()).toMatchObject({ key: 'k1' });
});

it('nobody but a keeper changes it', async () => {
  open({}, false);
  expect(await screen.findByLabelText('the outside sorter may be asked')).toBeDisabled();
  expect(screen.queryByRole('button', { name: 'Save' })).toBeNull();
});
