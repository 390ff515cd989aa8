import { describe, expect, it } from "vitest";

import { connectionOf } from "../../api/connections";
import type { Kind } from "../../api/types";
import { fieldsOf, slugOf } from "./form";

describe("the form of an end", () => {
  it("has a field for each credential, secrets marked, optional ones told", () => {
    const kind = {
      credentials_schema: {
        required: ["key", "secret"],
        properties: { key: { title: "Key" }, secret: { title: "Secret", writeOnly: true }, note: {}, way: { enum: ["a", "b"] } },
      },
    } as unknown as Kind;
    expect(fieldsOf(kind)).toEqual([
      { name: "key", title: "Key", secret: false, required: true, choices: [] },
      { name: "secret", title: "Secret", secret: true, required: true, choices: [] },
      { name: "note", title: "note", secret: false, required: false, choices: [] },
      { name: "way", title: "way", secret: false, required: false, choices: ["a", "b"] },
    ]);
  });

  it("knows from its state which connection a sign-in is for", () => {
    expect(connectionOf("marrowby/lanternfair/s3cret")).toEqual({ workspace: "marrowby", slug: "lanternfair" });
    expect(connectionOf("s3cret")).toBeNull();
  });

  it("makes a short name of any name", () => {
    expect(slugOf("Marrowby web shop")).toBe("marrowby-web-shop");
    expect(slugOf("  Zoë & Brûlé! ")).toBe("zoe-brule");
    expect(slugOf("結衣")).toBe("end");
    expect(slugOf("x".repeat(80))).toHaveLength(60);
  });
});
