/** The questions as one goes through them: which is in front, which were answered or passed over. */
import type { Answer } from "../../api/links";
import type { Question, Suggestion } from "../../api/types";

export interface Going {
  waiting: Question[];
  /** The id of the last question that was fetched: the next page begins behind it. */
  reached: number;
  exhausted: boolean;
  passed: number;
  /** What was answered here: its answer may still be on its way while the questions are asked for anew. */
  answered: readonly string[];
}

export const START: Going = { waiting: [], reached: 0, exhausted: false, passed: 0, answered: [] };

export type Step = { type: "fetched"; questions: Question[] } | { type: "done" } | { type: "passed" } | { type: "again"; forget: boolean };

export function go(going: Going, step: Step): Going {
  switch (step.type) {
    case "fetched": {
      const known = new Set(going.waiting.map((one) => one.entry.id));
      const beyond = step.questions.filter((one) => one.entry.id > going.reached && !known.has(one.entry.id));
      const last = beyond.at(-1);
      return {
        ...going,
        waiting: [...going.waiting, ...beyond.filter((one) => !going.answered.includes(one.entry.source_id))],
        reached: last ? last.entry.id : going.reached,
        exhausted: !last,
      };
    }
    case "done": {
      const [front, ...waiting] = going.waiting;
      return { ...going, waiting, answered: front ? [...going.answered, front.entry.source_id] : going.answered };
    }
    case "passed":
      return { ...going, waiting: going.waiting.slice(1), passed: going.passed + 1 };
    case "again":
      return { ...START, answered: step.forget ? [] : going.answered };
  }
}

/** Fetch on while a few are left, so that nobody waits between two answers. */
export const wantsMore = (going: Going) => !going.exhausted && going.waiting.length < 5;

export const answerOf = (key: string, suggestion: Suggestion | null): Answer => ({
  key,
  none: suggestion === null,
  targets: (suggestion?.targets ?? []).map(({ id, quantity, share }) => ({ id, quantity, share })),
});

export type Act = { type: "take"; place: number } | { type: "none" } | { type: "create" } | { type: "pass" } | { type: "undo" } | { type: "search" };

/** What a key means; nothing while somebody types. */
export function actOf(key: string, suggestions: number): Act | null {
  if (/^[1-9]$/.test(key)) return Number(key) <= suggestions ? { type: "take", place: Number(key) - 1 } : null;
  switch (key) {
    case "Enter":
      return suggestions ? { type: "take", place: 0 } : null;
    case "n":
      return { type: "none" };
    case "c":
      return { type: "create" };
    case "s":
      return { type: "pass" };
    case "u":
      return { type: "undo" };
    case "/":
      return { type: "search" };
    default:
      return null;
  }
}
