import { describe, expect, it } from "vitest";

import type { Reason } from "../../api/types";
import { linked, litBy, NOTHING } from "./links";

const net: Reason = {
  target: "/documents/0/lines/0/net",
  sources: ["/lines/0/amount", "/discounts/0/amount"],
  rule: "planner:tax-inclusive-remainder",
  text: "The price, less discount and tax.",
  allocated: [],
};
const tax: Reason = { ...net, target: "/documents/0/lines/0/tax", sources: ["/lines/0/amount"], text: "The tax inside." };
const other: Reason = { ...net, target: "/documents/0/lines/1/net", sources: ["/discounts/0/amount"] };

describe("litBy", () => {
  it("lights the sources of an amount in the books, with its own reason alone", () => {
    const lit = litBy("/documents/0/lines/0/net", [net, tax, other]);
    expect([...lit.pointers]).toEqual(["/documents/0/lines/0/net", "/lines/0/amount", "/discounts/0/amount"]);
    expect(lit.reasons).toEqual([net]);
  });

  it("lights every place that an amount of the order went to", () => {
    const lit = litBy("/lines/0/amount", [net, tax, other]);
    expect([...lit.pointers]).toEqual(["/lines/0/amount", "/documents/0/lines/0/net", "/documents/0/lines/0/tax"]);
    expect(lit.reasons).toEqual([net, tax]);
  });

  it("lights nothing where nobody points", () => {
    expect(litBy(null, [net])).toBe(NOTHING);
  });

  it("keeps to the one pointed at where no reason names it", () => {
    expect(litBy("/payments/0/amount", [net]).reasons).toEqual([]);
  });
});

it("only what a reason names can be pointed at", () => {
  expect(linked([tax])).toEqual(new Set(["/documents/0/lines/0/tax", "/lines/0/amount"]));
});
