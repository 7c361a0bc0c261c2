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
      problems: [{ line: 7, text: 'There is no queue “Nowhere” here.', blocks: true }],
    },
  });
  showAt('/workflows', '/workflows', () => <BringIn open onClose={() => undefined} />);
  fireEvent.change(await screen.findByLabelText('Or its text'), { target: { value: 'name: x' } });
  expect(await screen.findByRole('alert')).toHaveTextContent('Line 7: There is no queue “Nowhere” here.');
  expect(screen.getByRole('button', { name: 'Bring it in' })).toBeDisabled();
});

it('a Sieve script is made a document, and what has no counterpart is told by line', async () => {
  serve({
    'POST /api/workflows/import/sieve': {
      yaml: 'name: old rules',
      notes: [{ line: 4, text: 'The action “redirect” has no counterpart.' }],
    },
    'POST /api/workflows/import/preview': preview,
  });
  showAt('/workflows', '/workflows', () => <BringIn open onClose={() => undefined} />);
  const file = new File(['keep;'], 'old rules.sieve');
  file.text = () => Promise.resolve('keep;');
  await userEvent.upload(await screen.findByLabelText('Workflow document, or a Sieve script'), file);
  expect(await screen.findByText(/Line 4: The action “redirect” has no counterpart/)).toBeVisible();
  expect(screen.getByLabelText('Or its text')).toHaveValue('name: old rules');
});
