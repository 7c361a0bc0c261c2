import type { AutomaticKind, Condition, ConditionSet, MatchTest, MessagePart, SetupView } from '@/api/types';

/** An id that stays with its condition, category or line through all editions. */
export function newId(prefix: string): string {
  return `${prefix}${crypto.randomUUID().slice(0, 8)}`;
}

export const emptySet: ConditionSet = { all: [], any: [], none: [] };

export type Group = keyof ConditionSet;

export const groups: Group[] = ['all', 'any', 'none'];

export const groupWords: Record<Group, string> = { all: 'all of', any: 'any of', none: 'unless' };

/** The parts as the sheet offers them, by what they are about. */
export const partGroups: { label: string; parts: MessagePart[] }[] = [
  { label: 'Text', parts: ['SubjectOrBody', 'Subject', 'BaseSubject', 'Body', 'WordAtPlace'] },
  {
    label: 'From',
    parts: ['Sender', 'SenderAddress', 'SenderDomain', 'SenderName', 'ListId', 'Authentication'],
  },
  { label: 'To', parts: ['OriginallyTo', 'Tag', 'Recipient'] },
  {
    label: 'Attachments',
    parts: ['Attachment', 'AttachmentName', 'AttachmentType', 'AttachmentCount', 'AttachmentSize'],
  },
  {
    label: 'Time and size',
    parts: ['ArrivalDate', 'Weekday', 'Hour', 'BusinessHours', 'SentDate', 'Age', 'Size'],
  },
  { label: 'Conversation', parts: ['ConversationNumber', 'AnswersOurs', 'HasTicket'] },
  { label: 'More', parts: ['Automatic', 'Header', 'Fact', 'Category', 'Saved', 'Group'] },
];

export const partWords: Record<MessagePart, string> = {
  SubjectOrBody: 'subject or body',
  Subject: 'subject',
  BaseSubject: 'subject without reply marks',
  Body: 'body',
  WordAtPlace: 'the word at a place',
  Sender: 'sender',
  SenderAddress: 'sender’s address',
  SenderDomain: 'sender’s domain',
  SenderName: 'sender’s name',
  ListId: 'mailing list',
  Authentication: 'authentication result',
  OriginallyTo: 'address first written to',
  Tag: 'tag of the address',
  Recipient: 'a recipient',
  Attachment: 'an attachment',
  AttachmentName: 'an attachment’s name',
  AttachmentType: 'an attachment’s type by content',
  AttachmentCount: 'number of attachments',
  AttachmentSize: 'size of an attachment',
  ArrivalDate: 'day it arrived',
  Weekday: 'day of the week',
  Hour: 'time it arrived',
  BusinessHours: 'arrived in business hours',
  SentDate: 'day it was sent',
  Age: 'days since it was sent',
  Size: 'size of the message',
  ConversationNumber: 'number in its conversation',
  AnswersOurs: 'answers a message of ours',
  HasTicket: 'belongs to a ticket',
  Automatic: 'automatic mail',
  Header: 'header field',
  Fact: 'fact',
  Category: 'category',
  Saved: 'saved condition',
  Group: 'group of conditions',
};

export const testWords: Record<MatchTest, string> = {
  HasAnyWordIn: 'has any word in',
  Contains: 'contains',
  Is: 'is',
  Begins: 'begins with',
  Ends: 'ends with',
  Word: 'has the word',
  Matches: 'fits the pattern',
  Regex: 'fits the expression',
  Present: 'is there',
  Absent: 'is not there',
  Between: 'between',
  OneOf: 'is one of',
};

export const kindWords: Record<AutomaticKind, string> = {
  Bounce: 'bounce',
  AbsenceNotice: 'absence notice',
  MailingList: 'mailing list',
  Bulk: 'bulk',
  Generated: 'generated',
};

export const weekdays = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

/** Results of RFC 8601 §2.7; “none” also stands for no result from a trusted host. */
export const authenticationResults = [
  'pass',
  'fail',
  'softfail',
  'neutral',
  'none',
  'temperror',
  'permerror',
];

export const authenticationMethods = ['dmarc', 'dkim', 'spf'];

/** Parts that are there or not; they are compared with nothing. */
const yesOrNo: MessagePart[] = ['Attachment', 'Automatic', 'BusinessHours', 'AnswersOurs', 'HasTicket'];

export const isYesOrNo = (part: MessagePart) => yesOrNo.includes(part);

/** How a test is called with a part: what is there or not is said in the part’s own words. */
export function testLabel(part: MessagePart, test: MatchTest): string {
  if (part === 'BusinessHours' || part === 'AnswersOurs' || part === 'HasTicket')
    return test === 'Absent' ? 'no' : 'yes';
  return testWords[test];
}

export const usesText = (test: MatchTest) =>
  ['Contains', 'Is', 'Begins', 'Ends', 'Word', 'Matches', 'Regex'].includes(test);

export const usesNumbers = (part: MessagePart, test: MatchTest) =>
  test === 'Between' && !['ArrivalDate', 'SentDate', 'Hour'].includes(part);

/** Bytes are typed in kilobytes. */
export const unitOf = (part: MessagePart) => (part === 'Size' || part === 'AttachmentSize' ? 1000 : 1);

export function testsOf(setup: SetupView | undefined, part: MessagePart): MatchTest[] {
  return setup?.parts.find((p) => p.part === part)?.tests ?? ['Contains'];
}

export function newCondition(): Condition {
  return {
    id: newId('c'),
    part: 'SubjectOrBody',
    test: 'Contains',
    values: [],
    keywordListId: null,
    kinds: [],
    name: null,
    wholeBody: false,
    sameCase: false,
    place: null,
    least: null,
    most: null,
    from: null,
    until: null,
    savedId: null,
    set: null,
  };
}

/** The condition with another part; what no longer makes sense is dropped, what still does is kept. */
export function withPart(condition: Condition, part: MessagePart, tests: MatchTest[]): Condition {
  const test = tests.includes(condition.test) ? condition.test : tests[0]!;
  const kept = usesText(test) && usesText(condition.test) ? condition.values : [];
  return {
    ...newCondition(),
    id: condition.id,
    part,
    test,
    values: kept,
    keywordListId: test === 'HasAnyWordIn' ? condition.keywordListId : null,
    sameCase: condition.sameCase && usesText(test),
    name: part === 'Authentication' ? 'dmarc' : null,
    place: part === 'WordAtPlace' ? { line: 1, word: 1 } : null,
    set: part === 'Group' ? { ...emptySet, any: [newCondition()] } : null,
  };
}

/** Values as people type them: separated by commas; a backslash keeps a comma. */
export function readValues(text: string): string[] {
  return text
    .split(/(?<!\\),/)
    .map((v) => v.replaceAll('\\,', ',').trim())
    .filter((v) => v !== '');
}

export function writeValues(values: string[]): string {
  return values.map((v) => v.replaceAll(',', '\\,')).join(', ');
}

export function isEmptySet(set: ConditionSet): boolean {
  return set.all.length + set.any.length + set.none.length === 0;
}

/** Every condition that is not a group, however deep. */
export function leavesOf(set: ConditionSet): Condition[] {
  return groups.flatMap((g) => set[g]).flatMap((c) => (c.part === 'Group' && c.set ? leavesOf(c.set) : [c]));
}
