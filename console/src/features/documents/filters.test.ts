import { describe, expect, it } from "vitest";

import { cursorOf } from "../../parts/cursor";
import { active, asked, changed, NO_FILTERS, readFilters, writeFilters } from "./filters";

describe("filters", () => {
  it("come back from the address as they were put there", () => {
    const filters = { ...NO_FILTERS, search: "MW-1", state: ["held", "left out"], differing: true, sort: "gross" };
    expect(readFilters(writeFilters(filters))).toEqual(filters);
  });

  it("leave the address bare where nothing is set", () => {
    expect(writeFilters(NO_FILTERS).toString()).toBe("");
    expect(active(NO_FILTERS)).toBe(false);
  });

  it("begin at the first page again when one changes", () => {
    expect(changed({ ...NO_FILTERS, cursor: "abc" }, { cause: "penny-over-allowance" }).cursor).toBe("");
    expect(changed(NO_FILTERS, { cursor: "abc" }).cursor).toBe("abc");
  });

  it("do not count a page or an order of sorting as a filter", () => {
    expect(active({ ...NO_FILTERS, cursor: "abc", sort: "gross" })).toBe(false);
    expect(active({ ...NO_FILTERS, run: "3" })).toBe(true);
  });

  it("are asked for in the API's words", () => {
    expect(asked({ ...NO_FILTERS, from: "2026-10-01", differing: false })).toMatchObject({
      placed_from: "2026-10-01",
      differing: undefined,
    });
  });

  it("find the cursor in a link, and none where there is no link", () => {
    expect(cursorOf("http://127.0.0.1/api/v1/x?cursor=cD0x&limit=5")).toBe("cD0x");
    expect(cursorOf(null)).toBe("");
  });
});
