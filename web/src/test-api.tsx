import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render, type RenderResult } from '@testing-library/react';
import { Tooltip } from 'radix-ui';
import type { ReactNode } from 'react';
import { vi } from 'vitest';
import type { MatchTest, Me, SetupView } from './api/types';

export const me: Me = {
  signedIn: true,
  name: 'Nell',
  permissions: ['builder', 'desk', 'checker', 'keeper'],
  requestToken: 't',
  office: 'Harbour',
  practiceAddress: null,
};

const onText: MatchTest[] = ['Contains', 'Is', 'Begins', 'Ends', 'Word', 'Matches', 'Regex', 'HasAnyWordIn'];
const testedParts: SetupView['parts'] = [
  ...(['SubjectOrBody', 'Subject', 'Body', 'Sender', 'WordAtPlace'] as const).map((part) => ({
    part,
    tests: onText,
  })),
  { part: 'Header', tests: [...onText, 'Present', 'Absent'] },
  { part: 'Automatic', tests: ['Present', 'Absent'] },
  { part: 'Attachment', tests: ['Present', 'Absent'] },
  { part: 'Size', tests: ['Between'] },
  { part: 'Hour', tests: ['Between'] },
  { part: 'Weekday', tests: ['OneOf'] },
  { part: 'Category', tests: ['OneOf'] },
  { part: 'Authentication', tests: ['OneOf'] },
  { part: 'Saved', tests: ['Present'] },
  { part: 'Group', tests: ['Present'] },
];

export const setup: SetupView = {
  mailboxes: [
    {
      id: 1,
      name: 'Harbour',
      addresses: [
        { address: 'berths@saltmarrow.example', name: 'berths' },
        { address: 'fuel@saltmarrow.example', name: '' },
      ],
      connection: null,
      approval: null,
      health: null,
    },
  ],
  queues: [
    { id: 1, name: 'Berthing desk' },
    { id: 2, name: 'Large berths' },
  ],
  keywordLists: [
    {
      id: 5,
      name: 'Berthing words',
      description: '',
      words: ['berth', 'mooring'],
      options: { wholeWords: true, sameCase: false, sameAccents: true, endings: false },
    },
  ],
  templates: [{ id: 7, name: 'Received', body: 'Dear', attachmentName: null }],
  destinations: [{ id: 9, name: 'Register', url: 'https://app.example' }],
  doNotMail: { entries: [] },
  people: [],
  log: [],
  facts: ['sender_name', 'subject'],
  savedConditions: [{ id: 11, name: 'Our regulars', description: '', set: { all: [], any: [], none: [] } }],
  deskHours: { zone: 'Europe/London', from: '08:00', until: '17:00', days: [1, 2, 3, 4, 5] },
  sorters: [],
  parts: testedParts,
};

export interface Call {
  method: string;
  path: string;
  body: unknown;
}

/** Answers the requests a component makes, and keeps them. An answer is given by “METHOD /path”. */
export function serve(answers: Record<string, unknown> = {}): Call[] {
  const calls: Call[] = [];
  vi.spyOn(globalThis, 'fetch').mockImplementation(async (input) => {
    const request = input as Request;
    const url = new URL(request.url);
    const text = await request.text();
    calls.push({
      method: request.method,
      path: url.pathname + url.search,
      body: text ? JSON.parse(text) : undefined,
    });
    const known: Record<string, unknown> = { 'GET /api/me': me, 'GET /api/setup': setup, ...answers };
    const answer = known[`${request.method} ${url.pathname}`];
    const status = answer instanceof Error ? 409 : 200;
    return new Response(
      JSON.stringify(answer instanceof Error ? { title: answer.message } : (answer ?? {})),
      {
        status,
        headers: { 'Content-Type': 'application/json' },
      },
    );
  });
  return calls;
}

/** Renders inside what every screen has around it. */
export function show(children: ReactNode): RenderResult {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return render(
    <QueryClientProvider client={client}>
      <Tooltip.Provider>{children}</Tooltip.Provider>
    </QueryClientProvider>,
  );
}
