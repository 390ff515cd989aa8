import type { AmountOf, SheetOf } from "../../api/tieout";
import { withQuery } from "../../api/http";
import { causeInWords, ruleInWords } from "../../parts/words";

export const SECTIONS: Record<string, string> = { sales: "Sales", refunds: "Refunds", both: "Sales and refunds", money: "Money" };

/** What documents differ in the books for, whether an amount does or not. */
export const DIFFERING: readonly string[] = [
  "posted otherwise than planned",
  "changed in the books",
  "voided in the books",
  "missing in the books",
  "twice in the books",
  "under another reference in the books",
];

/** What is not here, and so stands behind no amount: it is listed with what was checked. */
export const LACKING: readonly string[] = ["listed and not fetched", "counted and not listed", "known by its number alone"];

/** Whose detail is the cause of a hold; else it is the rule that left something out. */
export const HELD_FOR: readonly string[] = ["held", "payouts or payments not carried yet"];

/** Where the documents behind an amount are listed. */
export function behind(slug: string, period: SheetOf, amount: AmountOf): string {
  if (LACKING.includes(amount.reason ?? "")) return `${withQuery(`/${slug}/tie-out`, { ...period })}#completeness`;
  return `${withQuery(`/${slug}/tie-out`, { ...period, ...amount })}#behind`;
}

/** Why two sides differ, with what it is held for, or the rule that left it out. */
export function reasonInWords(reason: string, detail: string): string {
  if (!detail) return reason;
  return HELD_FOR.includes(reason) ? `${reason}: ${causeInWords(detail).toLowerCase()}` : `${reason}: ${ruleInWords(detail)}`;
}

/** The first and last day of the month that a day is in, some months on. */
export function monthOf(iso: string, on = 0): { first: string; last: string } {
  const [year = 0, month = 1] = iso.split("-").map(Number);
  const day = (from: Date) => from.toISOString().slice(0, 10);
  return { first: day(new Date(Date.UTC(year, month - 1 + on, 1))), last: day(new Date(Date.UTC(year, month + on, 0))) };
}

/** The same of a day. */
export function dayOn(iso: string, on: number): { first: string; last: string } {
  const [year = 0, month = 1, of = 1] = iso.split("-").map(Number);
  const day = new Date(Date.UTC(year, month - 1, of + on)).toISOString().slice(0, 10);
  return { first: day, last: day };
}
