import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve, show } from '@/test-api';
import { Upload } from './Upload';

const sent: { name: string; metadata: Record<string, string> }[] = [];
vi.mock('tus-js-client', () => ({
  Upload: class {
    constructor(
      private file: File,
      private options: { metadata: Record<string, string>; onSuccess: () => void },
    ) {}
    findPreviousUploads = () => Promise.resolve([]);
    start() {
      sent.push({ name: this.file.name, metadata: this.options.metadata });
      this.options.onSuccess();
    }
  },
}));

afterEach(() => {
  cleanup();
  sent.length = 0;
  vi.restoreAllMocks();
});

const upload = {
  id: 'u1',
  name: 'mail.mbox',
  mailbox: 'Harbour',
  person: 'Nell',
  startedAt: '2026-11-25T09:00:00Z',
  state: 'Finished',
  size: 10,
  received: 10,
  carryOut: false,
  lookedAt: 60,
  taken: 57,
  duplicates: 1,
  refused: [{ file: 'mail.mbox', number: 12, why: 'It is empty.' }],
  problem: null,
};

it('sends the file to the chosen mailbox as old mail, unless it is said otherwise', async () => {
  serve({ 'GET /api/uploads': [] });
  show(<Upload open onClose={() => undefined} />);
  await waitFor(() => expect(screen.getByLabelText('Files')).toBeEnabled());
  await userEvent.upload(screen.getByLabelText('Files'), new File(['From x'], 'mail.mbox'));
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toEqual({
    name: 'mail.mbox',
    metadata: { filename: 'mail.mbox', mailboxId: '1', carryOut: 'false' },
  });
});

it('shows the result with every refusal’s reason', async () => {
  serve({ 'GET /api/uploads': [upload] });
  show(<Upload open onClose={() => undefined} />);
  expect(await screen.findByText('57 taken, 1 duplicate, 2 refused')).toBeVisible();
  expect(screen.getByText('Message 12: It is empty.')).toBeVisible();
});

it('can be stopped and taken up again', async () => {
  const calls = serve({
    'GET /api/uploads': [
      { ...upload, id: 'u2', state: 'TakingIn' },
      { ...upload, id: 'u3', state: 'Stopped' },
    ],
  });
  show(<Upload open onClose={() => undefined} />);
  await userEvent.click(await screen.findByRole('button', { name: 'Stop' }));
  await userEvent.click(screen.getByRole('button', { name: 'Go on' }));
  await waitFor(() => expect(calls.map((c) => c.path)).toContain('/api/uploads/u3/resume'));
  expect(calls.map((c) => c.path)).toContain('/api/uploads/u2/stop');
});
