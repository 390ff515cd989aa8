import { describe, expect, it } from "vitest";

import { type Comparison, comparisonOf, FIELDS, isWhole, needsValue, operatorsOf, written } from "./comparison";

describe("a condition of one comparison", () => {
  it("is read back as it was written, for every field and comparison", () => {
    for (const [field, { kind }] of Object.entries(FIELDS)) {
      for (const operator of Object.keys(operatorsOf(field))) {
        for (const value of kind === "number" ? ["0", "-5", "1999"] : ["GB", 'a "b" \\ c', "Café, 5"]) {
          const one: Comparison = { field, operator, value: needsValue({ operator }) ? value : "" };
          expect(comparisonOf(written(one)), written(one)).toEqual(one);
        }
      }
    }
  });

  it("is written as anybody would write it", () => {
    expect(written({ field: "order.country", operator: "==", value: "GB" })).toBe('order.country == "GB"');
    expect(written({ field: "order.total", operator: ">", value: "5000" })).toBe("order.total > 5000");
    expect(written({ field: "order.tags", operator: "has", value: "sample" })).toBe('"sample" in order.tags');
    expect(written({ field: "buyer.is_guest", operator: "no", value: "" })).toBe("!buyer.is_guest");
    expect(written({ field: "order.dispatched_on", operator: "filled", value: "" })).toBe('order.dispatched_on != ""');
  });

  it("is no other expression, however near", () => {
    for (const text of ['order.total == 0 && "sample" in order.tags', "order.total > 19.99", 'order.contry == "GB"', "true", "",
      'order.country=="GB"', "order.lines.all(l, l.amount >= 0)", "order.total > order.paid_total"]) {
      expect(comparisonOf(text), text).toBeNull();
    }
  });

  it("is not whole without its value", () => {
    expect(isWhole({ field: "order.country", operator: "==", value: "" })).toBe(false);
    expect(isWhole({ field: "order.total", operator: ">", value: "12.50" })).toBe(false);
    expect(isWhole({ field: "order.total", operator: "startsWith", value: "1" })).toBe(false);
  });
});
