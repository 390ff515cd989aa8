import { describe, expect, it } from "vitest";

import { withQuery } from "../api/http";
import { outcomesOf, progressOf } from "../features/runs/progress";
import { amountText, isZero } from "./Amount";
import { causeInWords, counted, day, due, moment, ruleInWords } from "./words";

describe("amounts", () => {
  it.each([
    ["1234567.80", "1,234,567.80"],
    ["-0.14", "−0.14"],
    ["999", "999"],
    ["1000.005", "1,000.005"],
    ["0.00", "0.00"],
  ])("%s is shown as %s", (value, shown) => expect(amountText(value)).toBe(shown));

  it.each(["0", "0.00", "-0.00", "", null, undefined])("%s is nothing", (value) => expect(isZero(value)).toBe(true));
  it.each(["0.01", "-0.01", "10.00"])("%s is something", (value) => expect(isZero(value)).toBe(false));
});

describe("moments", () => {
  it("follow the company's wall clock, in summer and in winter", () => {
    expect(moment("2026-10-24T22:40:00Z", "Europe/London")).toBe("24 Oct, 23:40");
    expect(moment("2026-10-31T23:40:00Z", "Europe/London")).toBe("31 Oct, 23:40");
    expect(moment("2026-10-31T23:40:00Z", "Asia/Tokyo")).toBe("1 Nov, 08:40");
  });

  it("leave a date as it stands", () => expect(day("2026-10-31")).toBe("31 Oct 2026"));
  it("tell how late it is", () => {
    expect(due("2026-10-06", 0)).toBe("due 6 Oct 2026");
    expect(due("2026-10-06", 1)).toBe("due 6 Oct 2026, 1 day late");
  });
  it("tell a date by the company's own clock", () => expect(day("2026-10-31T23:41:00Z", "Europe/Paris")).toBe("1 Nov 2026"));
});

describe("words", () => {
  it("says rules and laws as people read them", () => {
    expect(ruleInWords("/tax_codes/by_class/standard")).toBe("the rulebook's tax codes › by class › standard");
    expect(ruleInWords("/bridge/starts_on")).toBe("the bridge's start date");
    expect(ruleInWords("removal of the bridge")).toBe("removal of the bridge");
    expect(ruleInWords("planner:tax-as-charged")).toBe("the planner's law “tax as charged”");
  });

  it("shows a cause it does not know by its code", () => {
    expect(causeInWords("penny-over-allowance")).toBe("The difference is over the allowance");
    expect(causeInWords("something-new")).toBe("something-new");
  });

  it("counts one apart from many", () => {
    expect(counted(1, "document")).toBe("1 document");
    expect(counted(1200, "document")).toBe("1,200 documents");
  });
});

describe("a run's progress", () => {
  const counts = { read: 0, pending: 0, unchanged: 0, waiting: 0, carried: 0, held: 0, differs: 0, left_out: 0, adopted: 0 };

  it("is not known before anything was read", () => expect(progressOf(counts)).toBeNull());

  it("counts what is not pending as done", () => {
    expect(progressOf({ ...counts, read: 60, pending: 20, carried: 40 })).toEqual({ done: 40, all: 60 });
  });

  it("names only what occurred, as the filter calls it", () => {
    expect(outcomesOf({ ...counts, read: 5, carried: 2, left_out: 3 })).toEqual([
      { outcome: "carried", name: "carried", number: 2 },
      { outcome: "left out", name: "left out", number: 3 },
    ]);
  });
});

describe("addresses", () => {
  it("leave out what is empty, and repeat what is a list", () => {
    expect(withQuery("/x", { a: "", b: null, c: ["held", "left out"], d: 3, e: false })).toBe(
      "/x?c=held&c=left+out&d=3&e=false",
    );
    expect(withQuery("/x")).toBe("/x");
  });
});
