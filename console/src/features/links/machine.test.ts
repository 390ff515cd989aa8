import { describe, expect, it } from "vitest";

import type { Question, Suggestion } from "../../api/types";
import { actOf, answerOf, go, START, type Step, wantsMore } from "./machine";

const question = (id: number) => ({ entry: { id, source_id: `s${id}` }, suggestions: [] }) as unknown as Question;

describe("going through the questions", () => {
  it("takes them in order, and fetches on before the last one", () => {
    let going = go(START, { type: "fetched", questions: [question(1), question(2)] });
    expect(going.waiting.map((one) => one.entry.id)).toEqual([1, 2]);
    expect(wantsMore(going)).toBe(true);
    going = go(going, { type: "done" });
    going = go(going, { type: "fetched", questions: [question(2), question(3)] });
    expect(going.waiting.map((one) => one.entry.id)).toEqual([2, 3]);
  });

  it("ends where nothing new comes, and counts what was passed over", () => {
    let going = go(START, { type: "fetched", questions: [question(1)] });
    going = go(going, { type: "passed" });
    going = go(going, { type: "fetched", questions: [] });
    expect(going).toEqual({ waiting: [], reached: 1, exhausted: true, passed: 1, answered: [] });
    expect(wantsMore(going)).toBe(false);
    expect(go(going, { type: "again", forget: false })).toEqual(START);
  });

  it("does not ask again what was answered a moment ago, unless that was taken back", () => {
    let going = go(START, { type: "fetched", questions: [question(1), question(2)] });
    going = go(go(going, { type: "done" }), { type: "passed" });
    const fetched: Step = { type: "fetched", questions: [question(1), question(2)] };
    const again = go(go(going, { type: "again", forget: false }), fetched);
    expect(again.waiting.map((one) => one.entry.id)).toEqual([2]);
    const undone = go(go(going, { type: "again", forget: true }), fetched);
    expect(undone.waiting.map((one) => one.entry.id)).toEqual([1, 2]);
  });

  it("knows its keys", () => {
    expect(actOf("2", 3)).toEqual({ type: "take", place: 1 });
    expect(actOf("4", 3)).toBeNull();
    expect(actOf("Enter", 0)).toBeNull();
    expect(actOf("Enter", 1)).toEqual({ type: "take", place: 0 });
    expect(["n", "c", "s", "u", "/"].map((key) => actOf(key, 0)?.type)).toEqual(["none", "create", "pass", "undo", "search"]);
    expect(actOf("x", 5)).toBeNull();
  });

  it("answers with every part of a kit, or with none", () => {
    const kit = { targets: [{ id: "1", code: "A", quantity: "2", share: "30.00" }] } as unknown as Suggestion;
    expect(answerOf("k", kit)).toEqual({ key: "k", none: false, targets: [{ id: "1", quantity: "2", share: "30.00" }] });
    expect(answerOf("k", null)).toEqual({ key: "k", none: true, targets: [] });
  });
});
