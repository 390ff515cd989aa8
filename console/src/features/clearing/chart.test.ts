import { describe, expect, it } from "vitest";

import { height, reach, steps } from "./chart";

describe("the line of a balance", () => {
  it("has nought in its scale", () => {
    expect(reach(["47.86", "33.92"])).toEqual({ low: 0, high: 47.86 });
    expect(reach(["-9.99"])).toEqual({ low: -9.99, high: 0 });
  });
  it("stands the higher, the more there is", () => {
    expect([height("0.00", { low: 0, high: 50 }), height("25.00", { low: 0, high: 50 }), height("50.00", { low: 0, high: 50 })]).toEqual([150, 75, 0]);
    expect(height("0.00", { low: 0, high: 0 })).toBe(150);
  });
  it("is level from day to day, and steps on each day that moved it", () => {
    const stood = [
      { day: "2026-10-02", amount: "50.00" },
      { day: "2026-10-04", amount: "25.00" },
    ];
    // Four days of 180 each; the first and the third end as they began.
    expect(steps("0.00", stood, "2026-10-01", "2026-10-04", { low: 0, high: 50 })).toBe("0,150 180,150 180,0 540,0 540,75 720,75");
  });
});
