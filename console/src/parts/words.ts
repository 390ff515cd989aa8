/** How the console says what the service calls by a code. */

import type { components } from "../api/schema";

type Cause = components["schemas"]["CauseEnum"];

// By the service's own list: a cause without words here does not compile.
const CAUSES: Record<Cause, string> = {
  "source-invalid": "The order does not add up",
  "currency-not-kept": "The other side does not keep its currency",
  "rate-missing": "No exchange rate is known for its day",
  "rule-missing": "No rule says where an amount goes",
  "tax-class-unmapped": "A tax class has no tax code",
  "customer-unclear": "The customer is unclear",
  "item-unclear": "The item is unclear",
  "reference-missing": "The rulebook names what the books lack",
  "rulebook-invalid": "The rulebook cannot be used",
  "penny-over-allowance": "The difference is over the allowance",
  "code-rate-changed": "The books have another rate for a tax code by now",
  "books-refused": "The books refused the document",
  "sales-side-refused": "The sales side refused the document",
  "period-locked": "The books are locked for its date",
  "typed-in-books": "Somebody typed it into the books",
  "outcome-unclear": "The outcome is unclear",
  "order-first": "Its order is not carried yet",
  "invoice-first": "Its order is not invoiced yet",
  "tax-unclear": "The tax cannot be shared out",
  "source-changed": "The order changed after it was posted",
  "edited-in-books": "Somebody changed it in the books",
  "not-proved": "The books hold something else than was planned",
  "changed-in-books": "Somebody changed what was posted",
  "voided-in-books": "It was voided in the books",
  "missing-in-books": "It is not in the books any more",
  "twice-in-books": "It stands in the books twice",
  "reference-changed": "Its reference in the books is another",
  unforeseen: "Inkwell Bridge itself failed",
};

export const causeInWords = (cause: string) => CAUSES[cause as Cause] ?? cause;

export const STATES = ["waiting", "carried", "adopted", "held", "differs", "left out"] as const;

/** What one of each kind of document is called; those that a list can be narrowed to. */
export const KINDS: Record<string, string> = {
  orders: "Order",
  refunds: "Refund",
  customers: "Customer",
  receipts: "Receipt",
  payouts: "Payout",
  arrivals: "Bank line",
  requests: "Invoice to be paid",
  request_payments: "Payment by link",
  bank_payments: "Payment at the bank",
  charges: "Charge",
  entered_by_hand: "Entered by hand",
  not_posted_here: "Not posted from here",
  "opening balances": "",
};

/** The kinds that stand in the books, and were not made from here. */
export const ENTERED: readonly string[] = ["entered_by_hand", "not_posted_here"];

/** "2 documents", "1 document". */
export const counted = (number: number, one: string, many = `${one}s`) =>
  `${number.toLocaleString("en-GB")} ${number === 1 ? one : many}`;

/** A word as it stands at the head of something. */
export const capitalised = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);

/** A date as it stands; of a moment its date by a company's wall clock, or in UTC. */
export const day = (iso: string, timeZone = "UTC") =>
  new Date(iso).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric", timeZone });

/** "due 6 Oct 2026, 3 days late". */
export const due = (on: string, daysLate: number) => `due ${day(on)}${daysLate > 0 ? `, ${counted(daysLate, "day")} late` : ""}`;

/** A moment by the company's own wall clock. */
export const moment = (iso: string, timeZone: string) =>
  new Date(iso).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit", timeZone });

/** A moment of today by the reader's own clock, to the second. */
export const clockTime = (iso: string) =>
  new Date(iso).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit", second: "2-digit" });

/** A pointer into the rulebook, or a law of the planner, as people read it. */
export function ruleInWords(rule: string): string {
  if (rule === "/bridge/starts_on") return "the bridge's start date";
  if (rule.startsWith("planner:")) return `the planner's law “${rule.slice("planner:".length).replaceAll("-", " ")}”`;
  // What is no place in the rulebook is said in words already.
  if (!rule.startsWith("/")) return rule;
  return `the rulebook's ${rule.slice(1).replaceAll("/", " › ").replaceAll("_", " ")}`;
}

const STEPS: [Intl.RelativeTimeFormatUnit, number][] = [
  ["day", 86_400],
  ["hour", 3_600],
  ["minute", 60],
];

/** How long ago a moment was: "5 minutes ago", "just now". */
export function ago(iso: string, now = Date.now()): string {
  const seconds = (now - Date.parse(iso)) / 1000;
  const told = new Intl.RelativeTimeFormat("en-GB", { numeric: "auto" });
  for (const [unit, size] of STEPS) if (seconds >= size) return told.format(-Math.floor(seconds / size), unit);
  return "just now";
}
