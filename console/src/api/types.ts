/** Names for what the API answers with; the shapes come from its OpenAPI document. */
import type { components } from "./schema";

type Schemas = components["schemas"];

export type Session = Schemas["Session"];
export type Today = Schemas["Today"];
export type TieOut = Schemas["TieOut"];
export type SheetRow = Schemas["SheetRow"];
export type AccountRow = Schemas["AccountRow"];
export type SheetPart = Schemas["Part"];
export type SheetTotals = Schemas["Totals"];
export type Behind = Schemas["Behind"];
export type PaidOutRow = Schemas["PaidOut"];
export type Month = Schemas["Month"];
export type OpenItem = Schemas["OpenItem"];
export type ChangedPage = Schemas["ChangedPage"];
export type Hold = Schemas["Hold"];
export type Run = Schemas["RunWithTotals"];
export type RunHead = Schemas["Run"];
export type Counts = Schemas["Counts"];
export type Crossing = Schemas["Crossing"];
export type CrossingState = Schemas["CrossingStateEnum"];
export type Finding = Schemas["Finding"];
export type Connection = Schemas["Connection"];
export type Kind = Schemas["Kind"];
export type SignInBegun = Schemas["Begun"];
export type Loading = Schemas["Loading"];
export type NameKind = Schemas["NameKind"];
export type Name = Schemas["Name"];
export type Timetable = Schemas["Timetable"];
export type WholeTimetable = Schemas["WholeTimetable"];
export type TriedTimetable = Schemas["TriedTimetable"];
export type Table = Schemas["Table"];
export type TimesOfDay = Schemas["TimesOfDay"];
export type Days = Schemas["Days"];
export type TimetableRequest = Schemas["TimetableRequestRequest"];
export type LogEntry = Schemas["LogEntry"];
export type HoldGroup = Schemas["Group"];
export type ContactChoice = Schemas["ContactChoice"];
export type Freed = Schemas["Freed"];
export type LetGo = Schemas["LetGo"];
export type Became = Schemas["Became"];
export type Troubles = Schemas["Troubles"];
export type Trouble = Schemas["Trouble"];
export type DailyRate = Schemas["DailyRate"];
export type KeptRates = Schemas["KeptRates"];
export type BankAccount = Schemas["BankAccount"];
export type BankLine = Schemas["BankLine"];
export type Awaited = Schemas["Awaited"];
export type MatchProposal = Schemas["MatchProposal"];
export type StatementFile = Schemas["StatementFile"];
export type TakenFile = Schemas["TakenFile"];
export type Unmatched = Schemas["Unmatched"];
export type MoneyAccount = Schemas["MoneyAccount"];
export type PaymentRequest = Schemas["PaymentRequest"];
export type ClearingProofHead = Schemas["ClearingProofHead"];
export type ClearingProof = Schemas["ClearingProof"];
export type AccountProof = Schemas["AccountProof"];
export type AccountDay = Schemas["AccountDay"];
export type Standing = Schemas["Standing"];
export type NoticeRule = Schemas["NoticeRule"];
export type MadeNoticeRule = Schemas["MadeNoticeRule"];
export type Tested = Schemas["Tested"];
export type CallAddress = Schemas["CallAddress"];
export type IncomingCall = Schemas["IncomingCall"];
export type Registration = Schemas["Registration"];
export type Bridge = Schemas["Bridge"];
export type ConfigurationComparison = Schemas["Comparison"];
export type Rulebook = Schemas["Rulebook"];
export type RulebookHead = Schemas["RulebookHead"];
export type RuleChange = Schemas["RuleChange"];
export type BaseHead = Schemas["BaseHead"];
export type BaseRulebook = Schemas["Base"];
export type Step = Schemas["Step"];
export type Opening = Schemas["Opening"];
export type ConditionHits = Schemas["ConditionHits"];
export type OddOne = Schemas["OddOne"];
export type RuleStep = Schemas["RuleStep"];
export type Tried = Schemas["Tried"];
export type Linked = Schemas["Linked"];
export type LinkCounts = Schemas["LinkCounts"];
export type Question = Schemas["Question"];
export type Suggestion = Schemas["Suggestion"];
export type LinkChange = Schemas["Change"];
export type ImportPreview = Schemas["Preview"];
export type Member = Schemas["Member"];
export type Company = Required<Schemas["Company"]>;
export type Token = Schemas["Token"];
export type BrowserSession = Schemas["BrowserSession"];
export type SecondFactor = Schemas["SecondFactor"];
export type OfferedSecret = Schemas["OfferedSecret"];
export type TrailEntry = Schemas["Trail"];
export type Invitation = Schemas["Invitation"];
export type Invited = Schemas["Invited"];
export type InvitedTo = Schemas["InvitedTo"];
export type Entry = Schemas["Entry"];
export type Erasure = Schemas["Erasure"];

export interface Page<Item> {
  items: Item[];
  next: string | null;
  previous: string | null;
}

/** Canonical documents, as docs/formats describes them. */
export interface TaxLine {
  name: string;
  rate_percent: string;
  amount: string;
}

export interface Charge {
  id: string;
  title: string;
  amount: string;
  discount?: string;
  tax_class: string;
  taxes: TaxLine[];
}

export interface OrderLine extends Charge {
  sku: string;
  quantity: string;
  unit_price: string;
}

export interface Order {
  number: string;
  channel: string;
  status: string;
  placed_at: string;
  currency: string;
  prices_include_tax: boolean;
  country: string;
  lines: OrderLine[];
  discounts: { code: string; title: string; amount: string }[];
  shipping: Charge[];
  /** Absent in what was fetched by the first version. */
  extras?: Charge[];
  cash_rounding?: string;
  payments: { transaction: string; method: string; amount: string; state?: string; told_by?: string }[];
  tax_total: string;
  total: string;
  link: string;
}

export interface Buyer {
  account_id: string | null;
  name: string;
  email: string;
  company: string;
  delivery: { lines: string[]; town: string; postcode: string; country: string } | null;
}

export interface InvoiceLine {
  kind: string;
  line_reference: string;
  text: string;
  account: string;
  /** The books' own, where the rules put lines on items. */
  item?: string;
  quantity: string;
  unit_price: string;
  net: string;
  tax: string;
  tax_code: string;
}

/** Money in the books: a payment, or one that went back. */
export interface MoneyDocument {
  date: string;
  order_number: string;
  currency: string;
  account: string;
  amount: string;
  text: string;
  transaction: string;
  rate?: string | null;
  rate_from?: string;
  base?: string | null;
  exchange_difference?: { account: string; amount: string } | null;
}

/** The opening balances of a cut-over, in canonical shape. */
export interface Opened {
  currency: string;
  against: string;
  balances: { of: string; amount: string; account: string }[];
}

/** A journal in the books: a debit is positive. */
export interface Journal {
  date: string;
  currency: string;
  text: string;
  lines: { account: string; text: string; base: string }[];
}

/** What a provider paid out, in canonical shape; amounts as its account sees them. */
export interface Payout {
  provider: string;
  currency: string;
  paid_at: string;
  arrives_on: string | null;
  bank_reference: string;
  entries: PayoutEntry[];
  total: string;
}

export interface Entered {
  role: string;
  currency: string;
  entered_on: string;
  external_reference: string;
  lines: { account: string; tax_code: string; net: string; tax: string }[];
}

export interface Arrival {
  booked_on: string;
  amount: string;
  currency: string;
  text: string;
  parts: { payout: string; number: string; account: string; amount: string }[];
}

export interface PayoutEntry {
  id: string;
  kind: string;
  called: string;
  transaction: string;
  order_number: string;
  amount: string;
  fee: string;
  fee_tax: string;
  net: string;
}

/** Money that was entered in the books, in canonical shape. */
export interface Receipt {
  order_number: string;
  received_at: string;
  currency: string;
  account: string;
  text: string;
  amount: string;
  settles: { external_reference: string; amount: string }[];
}

/** An invoice of the books whose buyer is asked for money, in canonical shape. */
export interface InvoiceToPay {
  state: string;
  issued_on: string;
  due_on: string | null;
  currency: string;
  total: string;
  open: string;
  fields: { name: string; value: string }[];
  settled: { external_reference: string; amount: string }[];
  link: string;
}

/** What was paid on a request, in canonical shape. */
export interface PaidByLink {
  invoice_id: string;
  invoice_number: string;
  method: string;
  tender: string;
  currency: string;
  arrived_on?: string;
  taken_back?: boolean;
  amount: string;
  paid_at: string;
}

/** What a provider took, or gave back. */
export interface ChargeTaken {
  order_number: string;
  gives_back: boolean;
  method: string;
  tender: string;
  currency: string;
  amount: string;
  state: string;
  occurred_at: string;
}

/** What a buyer is asked for at the provider. */
export interface AskedOfBuyer {
  text: string;
  currency: string;
  amount: string;
  on_file: boolean;
  ends_on: string | null;
  withdrawn: boolean;
}

/** What a refund gives back, in canonical shape. */
export interface Refund {
  order_number: string;
  refunded_at: string;
  currency: string;
  prices_include_tax: boolean;
  reason: string;
  lines: (Omit<Charge, "id"> & { line: string; quantity: string })[];
  shipping: Charge[];
  goodwill: Charge[];
  payments: Order["payments"];
  tax_total: string;
  total: string;
}

export type Edited = Schemas["Edited"];
export type EditedBase = Schemas["EditedBase"];
export type Operation = Schemas["OperationRequest"];
export type RehearsalHead = Schemas["RehearsalHead"];
export type Rehearsal = Schemas["Rehearsal"];
export type ProposalHead = Schemas["ProposalHead"];
export type Proposal = Schemas["Proposal"];
export type ChangedPlan = Schemas["ChangedPlan"];
export type PlanChange = Schemas["PlanChange"];
export type BothPlans = Schemas["BothPlans"];
export type MetValue = Schemas["MetValue"];

export interface Invoice {
  external_reference: string;
  date: string;
  order_number: string;
  currency: string;
  rate?: string | null;
  lines: InvoiceLine[];
}

/** A document as a plan has it; money has an account and an amount in place of lines. */
export interface PlannedDocument {
  external_reference: string;
  role: string;
  date: string;
  currency: string;
  account?: string;
  amount?: string;
  terms?: string;
  lines?: PlannedLine[];
}

export interface PlannedLine {
  line_reference: string;
  text: string;
  account: string;
  tax_code: string;
  quantity: string;
  net: string;
  tax: string;
  warehouse: string;
  dimensions: { name: string; value: string }[];
}

export interface Reason {
  target: string;
  sources: string[];
  rule: string;
  text: string;
  allocated: { source: string; amount: string }[];
}

/** What a document in another currency is in the company's own. */
export interface BaseAmounts {
  currency: string;
  net: string;
  tax: string;
  gross: string;
}

export type SpreadDocument = Omit<Schemas["SpreadDocument"], "planned" | "settled" | "record"> & {
  planned: Invoice;
  settled: Invoice | null;
  /** Of what was adopted only the head is known, and `document` is absent. */
  record: { document?: Invoice; standing: string; contact_id?: string; date?: string | null; base?: BaseAmounts | null } | null;
};

export type SpreadAnswer = Omit<Schemas["Spread"], "order" | "buyer" | "reasons" | "documents"> & {
  order: Order | null;
  buyer: Buyer | null;
  reasons: Reason[];
  documents: SpreadDocument[];
};
export type BridgeCompleteness = Schemas["BridgeCompleteness"];
export type CompletenessCheck = Schemas["Check"];
export type KindCompleteness = Schemas["KindCompleteness"];
export type Lacking = Schemas["Lacking"];
export type SumIn = Schemas["Sum"];
export type CompletenessResult = Schemas["CompletenessResult"];
