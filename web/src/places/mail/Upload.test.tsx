import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve, show } from '@/test-api';
import { Upload } from './Upload';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const begun = {
  id: 'u1',
  name: 'mail.mbox',
  finished: false,
  lookedAt: 50,
  taken: 48,
  duplicates: 1,
  refused: [],
  problem: null,
};

/** The upload goes on for a while, until it is asked to stop or has been asked about often enough. */
function stub(after: object) {
  const calls = serve({ 'GET /api/uploads/u1': { ...begun, ...after } });
  const typed = vi.mocked(globalThis.fetch).getMockImplementation()!;
  let asked = 0;
  vi.spyOn(globalThis, 'fetch').mockImplementation((input, init) => {
    const path = typeof input === 'string' ? input : new URL((input as Request).url).pathname;
    const goesOn = path === '/api/uploads/u1' && asked++ < 5 && !calls.some((c) => c.path.endsWith('/stop'));
    return typeof input === 'string' || goesOn
      ? Promise.resolve(new Response(JSON.stringify(begun)))
      : typed(input, init);
  });
  return calls;
}

async function bringIn() {
  show(<Upload open onClose={() => undefined} />);
  await waitFor(() => expect(screen.getByLabelText('Files')).toBeEnabled());
  await userEvent.upload(screen.getByLabelText('Files'), new File(['From x'], 'mail.mbox'));
}

it('shows how far it is, and the result with every refusal’s reason', async () => {
  stub({
    finished: true,
    lookedAt: 60,
    taken: 57,
    duplicates: 1,
    refused: [{ file: 'mail.mbox', number: 12, why: 'It is empty.' }],
  });
  await bringIn();
  expect(await screen.findByText(/So far 48 taken, 1 duplicate, 1 refused/)).toBeVisible();
  expect(await screen.findByText('57 taken, 1 duplicate, 2 refused', {}, { timeout: 10_000 })).toBeVisible();
  expect(screen.getByText('Message 12: It is empty.')).toBeVisible();
});

it('can be stopped, and says that what was taken stays', async () => {
  const calls = stub({ finished: true, problem: 'It was stopped.' });
  await bringIn();
  await userEvent.click(await screen.findByRole('button', { name: 'Stop' }));
  expect(
    await screen.findByText('It was stopped. What was taken before stays.', {}, { timeout: 10_000 }),
  ).toBeVisible();
  expect(calls.map((c) => c.path)).toContain('/api/uploads/u1/stop');
});
