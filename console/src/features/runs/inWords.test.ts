import { describe, expect, it } from "vitest";

import { theRestOf } from "../../api/runs";
import { asked, took } from "./inWords";

const EVERYTHING = { purpose: "carry", numbers: [], lanes: [], first_day: null, last_day: null, again: null, outcomes: [] } as const;
const run = (what: object) => ({ ...EVERYTHING, ...what }) as unknown as Parameters<typeof asked>[0];

describe("what a run was asked for", () => {
  it.each([
    [{}, "everything new"],
    [{ numbers: ["MW-10006", "MW-10007"] }, "MW-10006, MW-10007"],
    [{ numbers: ["1", "2", "3", "4"] }, "4 orders"],
    [{ lanes: ["refunds"], first_day: "2026-10-05", last_day: "2026-10-06" }, "refunds from 5 Oct 2026 to 6 Oct 2026"],
    [{ first_day: "2026-10-05" }, "everything new from 5 Oct 2026"],
    [{ again: 7, outcomes: ["differs", "held"] }, "run 7 again: differs, held"],
    [{ purpose: "trial", numbers: ["MW-10006"] }, "MW-10006 on trial"],
  ])("%j is %s", (what, words) => expect(asked(run(what))).toBe(words));
});

describe("how long it took", () => {
  it.each([
    [null, ""],
    ["2026-10-31T20:01:10Z", "70 s"],
    ["2026-10-31T20:05:00Z", "5 minutes"],
  ])("until %s is %s", (ended_at, words) => expect(took({ started_at: "2026-10-31T20:00:00Z", ended_at })).toBe(words));
});

describe("what is left of a run that was stopped", () => {
  it.each([
    [{}, {}],
    [{ numbers: ["MW-10006"], lanes: ["orders"] }, { numbers: ["MW-10006"] }],
    // A first load: the lane remembers how far it came.
    [{ lanes: ["orders"], first_day: "2026-10-01" }, { lanes: ["orders"] }],
    [{ first_day: "2026-10-01", last_day: "2026-10-07" }, { first_day: "2026-10-01", last_day: "2026-10-07" }],
    [{ last_day: "2026-10-07" }, { last_day: "2026-10-07" }],
  ])("%j", (what, rest) => {
    expect(theRestOf({ ...EVERYTHING, ...what } as unknown as Parameters<typeof theRestOf>[0])).toEqual(rest);
  });
});
