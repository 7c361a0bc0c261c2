import type {
  DeedView,
  FileRow,
  ItemRow,
  MessageRow,
  MessageView,
  PreparedMessage,
  QueueLoad,
  ReplyRow,
  TicketRow,
  TicketView,
  Verdict,
} from './api/types';

const text = 'Good morning,\nwe need a berth for a week.\n\n-- \nAnn\n> an earlier question\n';

const prepared: PreparedMessage = {
  id: 7,
  version: 2,
  messageId: 'm7@quay.example',
  references: [],
  from: { name: 'Ann Skipper', address: 'ann@quay.example' } as PreparedMessage['from'],
  replyTo: null as never,
  returnPath: null as never,
  to: [{ name: '', address: 'berths@saltmarrow.example' }] as unknown as PreparedMessage['to'],
  cc: [],
  originallyTo: ['berths@saltmarrow.example'],
  subject: 'A berth for a week',
  sentAt: null as never,
  arrivedAt: '2026-11-24T09:00:00Z',
  body: {
    text,
    stretches: [
      { kind: 'New', start: 0, length: text.indexOf('--') },
      { kind: 'Signature', start: text.indexOf('--'), length: text.indexOf('>') - text.indexOf('--') },
      { kind: 'Quoted', start: text.indexOf('>'), length: text.length - text.indexOf('>') },
    ],
  } as unknown as PreparedMessage['body'],
  attachments: [
    { index: 0, name: 'crew list.pdf', declaredType: 'application/pdf', size: 2048, type: 'pdf' },
  ] as unknown as PreparedMessage['attachments'],
  automatic: [],
  size: 3000,
  header: [],
  folder: null as never,
  authentication: [],
  conversationId: 7,
};

export const messageRow: MessageRow = {
  id: 7,
  arrivedAt: '2026-11-24T09:00:00Z',
  senderName: 'Ann Skipper',
  senderAddress: 'ann@quay.example',
  subject: 'A berth for a week',
  attachmentCount: 1,
  automatic: null,
  state: 'Planned',
  takenIn: true,
  duplicate: false,
  old: false,
  problem: null,
};

export const verdict: Verdict = {
  workflowId: 3,
  workflowName: 'Berth requests',
  edition: 4,
  outcome: 'TakenIn',
  categoryId: null as never,
  sorter: null as never,
  lineId: 'l1' as never,
  fits: [],
  reasons: [
    {
      text: 'the subject holds the word “berth”',
      evidence: [{ place: 'Subject', start: 2, length: 5, text: 'berth', index: 0 }],
    },
  ],
  facts: [{ name: 'sender_name', value: 'Ann Skipper', evidence: null }],
  deeds: [],
  held: [],
  addressed: true,
  nearMiss: false,
} as unknown as Verdict;

/** A message a workflow took in; what a test is about is given. */
export function messageView(more: Partial<MessageView> = {}): MessageView {
  return {
    row: messageRow,
    mailbox: 'Harbour',
    size: 3000,
    senderCheck: null as never,
    prepared,
    hasHtml: false,
    duplicateOfId: null as never,
    verdicts: [verdict],
    deeds: [],
    conversation: [],
    tickets: [],
    items: [],
    files: [],
    ...more,
  };
}

export const item: ItemRow = {
  id: 21,
  queueId: 1,
  messageId: 7,
  senderName: 'Ann Skipper',
  senderAddress: 'ann@quay.example',
  subject: 'A berth for a week',
  attachmentCount: 1,
  placedAt: '2026-11-24T09:00:00Z',
  dueAt: null,
  state: 'Open',
  waitsUntil: null,
  takenBy: null,
  mine: false,
};

export const queue: QueueLoad = {
  id: 1,
  name: 'Berthing desk',
  open: 2,
  overdue: 0,
  withinHour: 0,
  waiting: 0,
  untaken: 2,
  nextDue: null,
};

export const ticket: TicketRow = {
  reference: 'SH-104',
  label: 'Crane fault',
  priority: 'Normal',
  state: 'Open',
  summary: 'Crane 2 has stopped',
  requesterName: 'Ann Skipper',
  requesterAddress: 'ann@quay.example',
  openedAt: '2026-11-24T09:00:00Z',
  changedAt: '2026-11-24T10:00:00Z',
};

export const ticketView: TicketView = {
  ticket,
  description: 'It stopped with a load on.',
  messageId: 7,
  entries: [
    { id: 1, kind: 'Opened', at: ticket.openedAt, person: null, text: 'Opened, Crane fault', messageId: 7 },
  ],
  messages: [messageRow],
  files: [],
};

export const file: FileRow = {
  id: 31,
  folder: 'Cargo/2026',
  name: 'manifest.pdf',
  size: 2048,
  declaredType: 'application/pdf',
  filedAt: '2026-11-24T09:00:00Z',
  messageId: 7,
};

export const reply: ReplyRow = {
  deedId: 41,
  messageId: 7,
  state: 'Checking',
  because: 'the line says that a person checks it',
  from: 'berths@saltmarrow.example',
  to: 'ann@quay.example',
  subject: 'Re: A berth for a week',
  body: 'Dear Ann Skipper, berth 12 is yours.',
  templateName: 'Received',
  attachmentName: null,
  mailId: 'r41@saltmarrow.example',
  automatic: true,
  uncertain: false,
  checkedBy: null,
  createdAt: '2026-11-24T09:00:00Z',
  notBefore: null,
  doneAt: null,
  senderName: 'Ann Skipper',
  messageSubject: 'A berth for a week',
  workflow: 'Berth requests',
};

export const deed: DeedView = {
  id: 51,
  messageId: 7,
  messageSubject: 'A berth for a week',
  kind: 'Place',
  says: 'place in Berthing desk',
  state: 'Done',
  because: null,
  attempts: 1,
  createdAt: '2026-11-24T09:00:00Z',
  notBefore: null,
  doneAt: '2026-11-24T09:00:00Z',
  workflow: 'Berth requests',
  edition: 4,
  history: [{ state: 'Done', at: '2026-11-24T09:00:00Z', note: 'Placed in Berthing desk', person: null }],
};
