import { describe, expect, it } from "vitest";

import type { Kind } from "../../api/types";
import { fieldsOf, slugOf } from "./form";

describe("the form of an end", () => {
  it("has a field for each credential, secrets marked, optional ones told", () => {
    const kind = {
      credentials_schema: {
        required: ["key", "secret"],
        properties: { key: { title: "Key" }, secret: { title: "Secret", writeOnly: true }, note: {} },
      },
    } as unknown as Kind;
    expect(fieldsOf(kind)).toEqual([
      { name: "key", title: "Key", secret: false, required: true },
      { name: "secret", title: "Secret", secret: true, required: true },
      { name: "note", title: "note", secret: false, required: false },
    ]);
  });

  it("makes a short name of any name", () => {
    expect(slugOf("Marrowby web shop")).toBe("marrowby-web-shop");
    expect(slugOf("  Zoë & Brûlé! ")).toBe("zoe-brule");
    expect(slugOf("結衣")).toBe("end");
    expect(slugOf("x".repeat(80))).toHaveLength(60);
  });
});
