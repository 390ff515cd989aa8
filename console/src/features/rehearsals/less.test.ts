import { expect, test } from "vitest";

import { less } from "./Totals";

test("amounts are taken off each other exactly", () => {
  expect(less("0.30", "0.10")).toBe("0.20");
  expect(less("10410.29", "12693.11")).toBe("-2282.82");
  expect(less("0", "116.54")).toBe("-116.54");
  expect(less("7200", "7200")).toBe("0");
  expect(less("-0.01", "0.01")).toBe("-0.02");
  expect(less("14.500", "0.5")).toBe("14.000");
  expect(less("9007199254740993.01", "0.01")).toBe("9007199254740993.00");
});
