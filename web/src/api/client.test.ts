import { afterEach, expect, it, vi } from 'vitest';
import { api, body, keepRequestToken, Refusal } from './client';

afterEach(() => vi.restoreAllMocks());

function answer(status: number, text: string) {
  return vi
    .spyOn(globalThis, 'fetch')
    .mockImplementation(() =>
      Promise.resolve(new Response(text, { status, headers: { 'Content-Type': 'application/json' } })),
    );
}

it('a refusal carries the server’s own words and the fields they are about', async () => {
  answer(
    400,
    JSON.stringify({ title: 'A queue needs a name.', errors: { Name: ['A queue needs a name.'] } }),
  );
  const error = (await body(api.GET('/api/today')).catch((e: unknown) => e)) as Refusal;
  expect(error).toBeInstanceOf(Refusal);
  expect(error.message).toBe('A queue needs a name.');
  expect(error.fields.Name).toEqual(['A queue needs a name.']);
});

it('an answer that says nothing is still told plainly', async () => {
  answer(502, '<html>');
  await expect(body(api.GET('/api/today'))).rejects.toThrow('The server answered 502. Nothing was changed.');
});

it('a server that cannot be reached is told plainly', async () => {
  vi.spyOn(globalThis, 'fetch').mockRejectedValue(new TypeError('failed'));
  await expect(body(api.GET('/api/today'))).rejects.toThrow('The server cannot be reached.');
});

it('requests that change something carry the token, others do not', async () => {
  const fetched = answer(200, '{}');
  keepRequestToken('secret');
  await api.POST('/api/workflows', { body: { name: 'x' } });
  expect((fetched.mock.calls[0]![0] as Request).headers.get('X-Request-Token')).toBe('secret');
  await api.GET('/api/today');
  expect((fetched.mock.calls[1]![0] as Request).headers.get('X-Request-Token')).toBeNull();
});
