import { expect, test } from "vitest";

import { setting } from "./setting";

const RULES = { accounts: { sales: "4000", shipping: { default: "4100", by_country: { GB: "4110" } } }, payments: null };

test("a value that is there is replaced", () => {
  expect(setting(RULES, "/accounts/sales", "4010")).toEqual({ op: "replace", path: "/accounts/sales", value: "4010" });
});

test("groups that are not there yet come with it", () => {
  expect(setting(RULES, "/tax_codes/by_class/a~1b", "S20")).toEqual({
    op: "add",
    path: "/tax_codes",
    value: { by_class: { "a/b": "S20" } },
  });
  expect(setting(RULES, "/payments/accounts/by_method/card", "1250")).toEqual({
    op: "add",
    path: "/payments",
    value: { accounts: { by_method: { card: "1250" } } },
  });
  expect(setting(RULES, "/accounts/shipping/by_country/US", "4120")).toEqual({
    op: "add",
    path: "/accounts/shipping/by_country/US",
    value: "4120",
  });
});

test("a plain code becomes the default of its group", () => {
  expect(setting(RULES, "/accounts/sales/by_country/US", "4020")).toEqual({
    op: "replace",
    path: "/accounts/sales",
    value: { default: "4000", by_country: { US: "4020" } },
  });
});
