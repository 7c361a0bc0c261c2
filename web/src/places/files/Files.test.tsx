import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve } from '@/test-api';
import { file } from '@/test-made';
import { showAt } from '@/test-routed';
import { Files } from './Files';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const list = {
  folders: [
    { path: '', files: 1 },
    { path: 'Cargo', files: 0 },
    { path: 'Cargo/2026', files: 4 },
  ],
  files: [file],
  more: false,
};

it('folders are a tree; one is opened, its files are downloaded and lead back to their message', async () => {
  const calls = serve({ 'GET /api/files': list });
  showAt('/files', '/files', Files);
  const folder = await screen.findByRole('button', { name: '2026 4' });
  expect(folder.style.paddingLeft).toBe('45px');
  expect(screen.getByRole('link', { name: 'manifest.pdf' })).toHaveAttribute('href', '/api/files/31/content');
  expect(screen.getByRole('link', { name: 'message' })).toHaveAttribute('href', '/mail?id=7');
  expect(screen.getByText('2 kB')).toBeVisible();
  await userEvent.click(folder);
  await vi.waitFor(() => expect(calls.some((c) => c.path.includes('folder=Cargo%2F2026'))).toBe(true));
  expect(await screen.findByRole('heading', { name: 'Cargo/2026' })).toBeVisible();
  await userEvent.type(screen.getByLabelText('Find a file by name'), 'mani');
  await vi.waitFor(() => expect(calls.some((c) => c.path.includes('text=mani'))).toBe(true));
});

it('says what an empty folder means, and when there are more than are shown', async () => {
  serve({ 'GET /api/files': { folders: [], files: [], more: false } });
  showAt('/files', '/files', Files);
  expect(await screen.findByText(/can file attachments into a folder/)).toBeVisible();
  cleanup();
  serve({ 'GET /api/files': { folders: [], files: [], more: false } });
  showAt('/files', '/files?text=nothing', Files);
  expect(await screen.findByText('No name holds these letters.')).toBeVisible();
  cleanup();
  serve({ 'GET /api/files': { ...list, more: true } });
  showAt('/files', '/files', Files);
  expect(await screen.findByText(/500 filed last/)).toBeVisible();
});
