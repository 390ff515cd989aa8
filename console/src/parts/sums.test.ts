import { expect, test } from "vitest";

import { negated, summed } from "./sums";

test("sums are exact and keep their digits", () => {
  expect(summed(["0.10", "0.20", "-0.30"])).toBe("0.00");
  expect(summed(["13.94", "33.92"])).toBe("47.86");
  expect(summed(["-0.05", "0.02"])).toBe("-0.03");
  expect(summed(["120", "-7"])).toBe("113");
  expect(summed([])).toBe("0");
  expect(summed(["9007199254740993.01", "0.01"])).toBe("9007199254740993.02");
});

test("the other sign", () => {
  expect([negated("1.50"), negated("-1.50")]).toEqual(["-1.50", "1.50"]);
});
