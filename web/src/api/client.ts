import createClient, { type Middleware } from 'openapi-fetch';
import type { paths } from './schema.gen';

/** A refusal or failure the server explained, in words for the person at the screen. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly fields: Record<string, string[]> = {},
  ) {
    super(message);
  }
}

let requestToken = '';

/** Keeps the token that every changing request has to carry. */
export function keepRequestToken(token: string) {
  requestToken = token;
}

export function tokenHeader(): Record<string, string> {
  return { 'X-Request-Token': requestToken };
}

/** Reads a problem document (RFC 9457) into a refusal. */
export async function readRefusal(response: Response): Promise<Refusal> {
  const text = await response.text();
  try {
    const problem = JSON.parse(text) as {
      title?: string;
      detail?: string;
      errors?: Record<string, string[]>;
    };
    return new Refusal(
      problem.detail ?? problem.title ?? response.statusText,
      response.status,
      problem.errors,
    );
  } catch {
    return new Refusal(
      response.status === 403
        ? 'You do not have the permission for this.'
        : `The server answered ${response.status}. Nothing was changed.`,
      response.status,
    );
  }
}

const guard: Middleware = {
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-Request-Token', requestToken);
    return request;
  },
  async onResponse({ response }) {
    if (!response.ok) throw await readRefusal(response);
    return response;
  },
  onError() {
    return new Refusal('The server cannot be reached. Nothing was changed; it is tried again by itself.', 0);
  },
};

/** The client, typed by the server's own API document. */
export const api = createClient<paths>({
  baseUrl: window.location.origin,
  fetch: (request) => globalThis.fetch(request),
});
api.use(guard);

/** The body of an answer; the guard has thrown where there is none. */
export async function body<T>(answer: Promise<{ data?: T }>): Promise<T> {
  return (await answer).data as T;
}
