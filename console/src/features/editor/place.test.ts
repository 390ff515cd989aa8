import { expect, test } from "vitest";

import { placeAt } from "./place";

/** The place of a bar in a text. */
const at = (text: string) => {
  const { path, at: what, word } = placeAt(text.replace("|", ""), text.indexOf("|"));
  return [path.join("/"), what, word];
};

test("a key at the top, and one of a group", () => {
  expect(at("rulebook: 1\nacc|")).toEqual(["", "key", "acc"]);
  expect(at("accounts:\n  sal|")).toEqual(["accounts", "key", "sal"]);
  expect(at("accounts:\n  sales: \"4000\"\n  |")).toEqual(["accounts", "key", ""]);
  expect(at("accounts:\n  sales: \"4000\"\n|")).toEqual(["", "key", ""]);
});

test("a value beside its key, plain or in quotes", () => {
  expect(at("orders:\n  become: inv|")).toEqual(["orders/become", "value", "inv"]);
  expect(at('accounts:\n  shipping: "41|')).toEqual(["accounts/shipping", "value", "41"]);
  expect(at("accounts:\n  shipping: |  # agreed")).toEqual(["accounts/shipping", "value", ""]);
});

test("in brackets: keys, values, lists, one in another", () => {
  expect(at("penny: {|")).toEqual(["penny", "key", ""]);
  expect(at("penny: {allowance: 0.05, go|")).toEqual(["penny", "key", "go"]);
  expect(at("penny: {goes_to: ho|")).toEqual(["penny/goes_to", "value", "ho"]);
  expect(at('accounts: {sales: {default: "4000", by_country: {US: "40|')).toEqual(["accounts/sales/by_country/US", "value", "40"]);
  expect(at("orders:\n  statuses: [paid, com|")).toEqual(["orders/statuses/-", "value", "com"]);
  expect(at("tax_codes:\n  by_class: {standard: S20,\n    ze|")).toEqual(["tax_codes/by_class", "key", "ze"]);
  expect(at("penny: {allowance: 0.05}\nor|")).toEqual(["", "key", "or"]);
});

test("lists of groups, indented or not", () => {
  expect(at("orders:\n  leave_out:\n    - name: Samples\n      wh|")).toEqual(["orders/leave_out/-", "key", "wh"]);
  expect(at("orders:\n  leave_out:\n  - name: Samples\n    when: order.to|")).toEqual(["orders/leave_out/-/when", "value", "order.to"]);
  expect(at("orders:\n  leave_out:\n    - {name: A, when: x}\n  bec|")).toEqual(["orders", "key", "bec"]);
  expect(at("tax_codes:\n  exceptions:\n    - |")).toEqual(["tax_codes/exceptions/-", "key", ""]);
});

test("comments and signs in texts mislead nobody", () => {
  expect(at("# accounts: {\norders:\n  only: 'order.number == \"{\"'\n  be|")).toEqual(["orders", "key", "be"]);
  expect(at("fields:\n  text: {template: \"Order {order.number}\", def|")).toEqual(["fields/text", "key", "def"]);
  expect(at("fields:\n  text:\n    from: order.total > 1 ? \"a\" : ord|")).toEqual(["fields/text/from", "value", "order.total > 1 ? \"a\" : ord"]);
});
