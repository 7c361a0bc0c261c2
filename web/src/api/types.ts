import type { components } from './schema.gen';

type Schemas = components['schemas'];

/** The server always sends every property; the document marks those with a default as optional. */
type Full<T> = T extends (infer U)[]
  ? Full<U>[]
  : T extends object
    ? { [K in keyof T]-?: Full<Exclude<T[K], undefined>> }
    : T;

export type Me = Schemas['Me'];
export type TodayView = Schemas['TodayView'];
export type QueueLoad = Schemas['QueueLoad'];
export type QueueItems = Schemas['QueueItems'];
export type ItemRow = Schemas['ItemRow'];
export type ItemView = Schemas['ItemView'];
export type EntryView = Schemas['EntryView'];
export type MessageRow = Schemas['MessageRow'];
export type MessageView = Full<Schemas['MessageView']>;
export type PreparedMessage = Full<Schemas['PreparedMessage']>;
export type Verdict = Full<Schemas['Verdict']>;
export type Reason = Full<Schemas['Reason']>;
export type Evidence = Full<Schemas['Evidence']>;
export type DeedView = Schemas['DeedView'];
export type DeedState = Schemas['DeedState'];
export type TicketRow = Schemas['TicketRow'];
export type TicketView = Schemas['TicketView'];
export type TicketState = Schemas['TicketState'];
export type TicketPriority = Schemas['TicketPriority'];
export type ReplyRow = Schemas['ReplyRow'];
export type ReplyShow = Schemas['ReplyShow'];
export type FileRow = Schemas['FileRow'];
export type WorkflowRow = Schemas['WorkflowRow'];
export type WorkflowView = Full<Schemas['WorkflowView']>;
export type Sheet = Full<Schemas['Sheet']>;
export type Line = Full<Schemas['Line']>;
export type Category = Full<Schemas['Category']>;
export type Condition = Full<Schemas['Condition']>;
export type ConditionSet = Full<Schemas['ConditionSet']>;
export type TableFinding = Full<Schemas['TableFinding']>;
export type MessagePart = Schemas['MessagePart'];
export type MatchTest = Schemas['MatchTest'];
export type AutomaticKind = NonNullable<Schemas['AutomaticKind']>;
export type SetupView = Schemas['SetupView'];
export type SheetChange = Schemas['SheetChange'];
export type Rehearsal = Full<Schemas['RehearsalRun']>;
export type RehearsalViewName = Schemas['RehearsalView'];
export type RehearsedRow = Full<Schemas['RehearsedRow']>;
export type Difference = Schemas['Difference'];
export type MessageShow = Schemas['MessageShow'];
export type MailboxSetup = Schemas['MailboxSetup'];
export type ConnectionSetup = NonNullable<Schemas['ConnectionSetup']>;
export type ApprovalSetup = NonNullable<Schemas['ApprovalSetup']>;
export type ConnectionTestResult = Schemas['ConnectionTestResult'];
export type MailboxHealth = NonNullable<Schemas['MailboxHealth']>;
export type MailboxState = Schemas['MailboxState'];
export type PaceAdvice = Schemas['PaceAdvice'];
export type UploadView = Schemas['UploadView'];
export type RunView = Schemas['RunView'];
export type RunKind = Schemas['RunKind'];
export type RunState = Schemas['RunState'];
export type RunOutcome = Schemas['RunOutcome'];
export type RunLine = Schemas['RunLine'];
export type CatchUpRow = Schemas['CatchUpRow'];
export type CatchUpDeed = Schemas['CatchUpDeed'];
export type CatchUpPreview = Schemas['CatchUpPreview'];
export type TryView = Full<Schemas['TryView']>;
export type DeedKind = Schemas['DeedKind'];
export type DeedShow = Schemas['DeedShow'];
export type MailboxEffect = Full<Schemas['MailboxEffect']>;
export type Shortfall = NonNullable<Full<Schemas['Shortfall']>>;
export type Expectation = NonNullable<Full<Schemas['Expectation']>>;
export type ExampleView = Full<Schemas['ExampleView']>;
export type ExampleMark = Schemas['ExampleMark'];
export type SmallChangeView = Full<Schemas['SmallChangeView']>;
export type KindView = Full<Schemas['KindView']>;
export type OverlapsView = Full<Schemas['OverlapsView']>;
export type OverlapRow = Full<Schemas['OverlapRow']>;
export type MailLine = Schemas['MailLine'];
export type ImportPreview = Full<Schemas['ImportPreview']>;
export type SieveExport = Full<Schemas['SieveExport']>;
export type SieveImport = Full<Schemas['SieveImport']>;
