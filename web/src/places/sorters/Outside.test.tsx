import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve } from '@/test-api';
import { showAt } from '@/test-routed';
import { view } from './made';
import { Outside } from './Outside';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const off = { on: false, address: '', model: '', hasKey: false, mostCharacters: 4000, timeoutSeconds: 10 };
const shown = {
  'GET /api/sorters/4/examples': { total: 1, examples: [{ messageId: 31 }] },
  'GET /api/sorters/4/outside/31': {
    question: { task: 'You sort', text: 'Berth [number]' },
    answer: null,
    problem: null,
  },
};

function open(answers: Record<string, unknown>) {
  const calls = serve({ ...shown, ...answers });
  showAt('/workflows', '/workflows', () => <Outside view={view} open onClose={() => undefined} />);
  return calls;
}

it('while it is off nothing can be sent, and what would leave is shown', async () => {
  open({ 'GET /api/setup/outside-sorter': off });
  expect(await screen.findByText('Berth [number]')).toBeVisible();
  expect(screen.getByText(/nothing leaves this machine/)).toBeVisible();
  expect(screen.getByRole('button', { name: 'Send 20 examples' })).toBeDisabled();
  expect(screen.getByRole('checkbox')).toBeDisabled();
});

it('both sorters are compared on the same mail, and a keeper says who decides', async () => {
  const calls = open({
    'GET /api/setup/outside-sorter': { ...off, on: true, address: 'http://127.0.0.1:1/v1' },
    'POST /api/sorters/4/outside-comparison': {
      asked: 20,
      answered: 19,
      outsideRight: 14,
      ownRight: 18,
      differences: [
        {
          messageId: 31,
          subject: 'Diesel',
          is: 'fuel',
          own: 'fuel',
          outside: null,
          problem: 'The outside sorter took too long.',
        },
      ],
      problem: null,
    },
    'PUT /api/sorters/4/asks-outside': {},
  });
  await userEvent.click(await screen.findByRole('button', { name: 'Send 20 examples' }));
  expect(
    await screen.findByText(/this sorter 18 of 20 \(90 %\), the outside one 14 of 20 \(70 %\)/),
  ).toBeVisible();
  expect(screen.getByText('The outside sorter took too long.')).toBeVisible();
  await userEvent.click(screen.getByRole('checkbox'));
  await vi.waitFor(() =>
    expect(calls.some((c) => c.path === '/api/sorters/4/asks-outside?on=true')).toBe(true),
  );
});
