import { expect, test } from "vitest";

import { expressionAt, keysAt, meaningAt, namesOffered, offeredAt, wordsAt } from "./knowledge";

const names = (known: { name: string }[]) => known.map((one) => one.name);

test("the keys of the whole, of a section, and of one shape among several", () => {
  expect(names(keysAt([]))).toContain("tax_codes");
  expect(names(keysAt(["accounts"]))).toContain("gift_cards");
  expect(names(keysAt(["accounts", "sales"]))).toContain("by_tag");
  expect(names(keysAt(["orders", "leave_out", "-"]))).toEqual(["name", "when"]);
  expect(names(keysAt(["orders", "only"]))).toEqual(["all", "any", "none"]);
  expect(keysAt(["nowhere"])).toEqual([]);
});

test("the words of a value, also where a group would do as well", () => {
  expect(names(wordsAt(["penny", "goes_to"]))).toEqual(["rounding account", "largest line", "hold"]);
  expect(names(wordsAt(["orders", "become"]))).toEqual(["invoice", "sales order", "cash sale"]);
  expect(names(wordsAt(["orders", "become", "by_customer_group", "trade"]))).toContain("sales order");
  expect(names(wordsAt(["payments"]))).toEqual(["later"]);
});

test("the list of an end that a code, or the name of a row, is from", () => {
  expect(offeredAt(["accounts", "shipping"])).toEqual({ end: "books", kind: "accounts", types: ["income"] });
  expect(offeredAt(["accounts", "sales", "by_country", "US"])?.kind).toBe("accounts");
  expect(namesOffered(["tax_codes", "by_class"])).toEqual({ end: "source", kind: "tax-classes" });
  expect(offeredAt(["penny", "goes_to"])).toBeUndefined();
});

test("where expressions stand", () => {
  expect(expressionAt(["orders", "only"])).toBe("whole");
  expect(expressionAt(["orders", "leave_out", "-", "when", "all", "-"])).toBe("whole");
  expect(expressionAt(["fields", "text", "from"])).toBe("whole");
  expect(expressionAt(["fields", "text", "template"])).toBe("in braces");
  expect(expressionAt(["accounts", "sales"])).toBeUndefined();
});

test("what a key means", () => {
  const [meaning, one] = meaningAt(["penny", "goes_to"]);
  expect(meaning).toContain("A line outside tax");
  expect(one).toBe("One of rounding account, largest line, hold.");
  expect(meaningAt(["accounts", "sales", "by_country"])[0]).toContain("the country that the goods go to");
  expect(meaningAt(["nowhere"])).toEqual([]);
});
