import { describe, expect, it } from "vitest";

import { bar, reach } from "./Bars";

describe("bars", () => {
  it("stand on one scale that has nought in it", () => {
    expect(reach([{ before: "440.95", after: "0" }, { before: "4.00", after: "444.95" }])).toEqual({ low: 0, high: 444.95 });
    expect(reach([{ before: "-12.00", after: "12.00" }])).toEqual({ low: -12, high: 12 });
  });
  it("go from nought to their amount, to either side", () => {
    const scale = { low: -12, high: 12 };
    expect(bar("12.00", scale)).toEqual({ x: 60, width: 60 });
    expect(bar("-12.00", scale)).toEqual({ x: 0, width: 60 });
    expect(bar("6.00", scale)).toEqual({ x: 60, width: 30 });
    expect(bar("0", scale)).toEqual({ x: 60, width: 0 });
  });
  it("are nothing where all amounts are nought", () => {
    expect(bar("0", reach([{ before: "0", after: "0" }]))).toEqual({ x: 0, width: 0 });
  });
});
