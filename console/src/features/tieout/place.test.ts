import { expect, test } from "vitest";

import { dayOn, monthOf, reasonInWords } from "./place";

test("a month has its first and last day, also in February and over the year's end", () => {
  expect(monthOf("2026-10-17")).toEqual({ first: "2026-10-01", last: "2026-10-31" });
  expect(monthOf("2028-02-29")).toEqual({ first: "2028-02-01", last: "2028-02-29" });
  expect(monthOf("2026-12-31", 1)).toEqual({ first: "2027-01-01", last: "2027-01-31" });
  expect(monthOf("2026-01-01", -1)).toEqual({ first: "2025-12-01", last: "2025-12-31" });
});

test("the next day may be in the next month", () => {
  expect(dayOn("2026-10-31", 1)).toEqual({ first: "2026-11-01", last: "2026-11-01" });
  expect(dayOn("2026-03-01", -1)).toEqual({ first: "2026-02-28", last: "2026-02-28" });
});

test("a reason says what it is held for, or which rule left it out", () => {
  expect(reasonInWords("held", "period-locked")).toBe("held: the books are locked for its date");
  expect(reasonInWords("left out", "/orders/statuses")).toBe("left out: the rulebook's orders › statuses");
  expect(reasonInWords("waiting", "")).toBe("waiting");
});
