import { cleanup, fireEvent, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve } from '@/test-api';
import { showAt } from '@/test-routed';
import { BringIn } from './BringIn';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const preview = {
  name: 'Noise',
  workflowId: null,
  problems: [],
  changes: [{ band: 'takes in', before: null, after: 'any: subject contains “noise”' }],
  new: ['keyword list “Noise words”'],
  different: ['template “Received”'],
  examples: 2,
};

it('a document is looked over before it is brought in', async () => {
  const calls = serve({
    'POST /api/workflows/import/preview': preview,
    'POST /api/workflows/import': { id: 9, name: 'Noise' },
  });
  showAt('/workflows', '/workflows', () => <BringIn open onClose={() => undefined} />);
  fireEvent.change(await screen.findByLabelText('Or its text'), { target: { value: 'name: Noise' } });
  expect(await screen.findByText(/would be begun at the end of the order/)).toBeVisible();
  expect(screen.getByText(/keyword list “Noise words”/)).toBeVisible();
  await userEvent.click(screen.getByRole('checkbox'));
  await userEvent.click(screen.getByRole('button', { name: 'Bring it in' }));
  await vi.waitFor(() =>
    expect(calls.find((c) => c.path === '/api/workflows/import')?.body).toEqual({
      yaml: 'name: Noise',
      replace: true,
    }),
  );
});

it('what is wrong stands with its line, and nothing can be brought in', async () => {
  serve({
    'POST /api/workflows/import/preview': {
      ...preview,
      problems: [{ line: 7, text: 'There is no queue “Nowhere” here.' }],
    },
  });
  showAt('/workflows', '/workflows', () => <BringIn open onClose={() => undefined} />);
  fireEvent.change(await screen.findByLabelText('Or its text'), { target: { value: 'name: x' } });
  expect(await screen.findByRole('alert')).toHaveTextContent('Line 7: There is no queue “Nowhere” here.');
  expect(screen.getByRole('button', { name: 'Bring it in' })).toBeDisabled();
});
