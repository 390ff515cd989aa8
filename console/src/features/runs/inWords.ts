import type { RunHead } from "../../api/types";
import { counted, day } from "../../parts/words";

type Asked = Pick<RunHead, "purpose" | "numbers" | "lanes" | "first_day" | "last_day" | "again" | "outcomes">;

/** What a run was asked to read, in words. */
export function asked(run: Asked): string {
  if (run.purpose === "adopt") return "what the books hold under our references";
  if (run.purpose === "trial") return `${run.numbers[0] ?? "one order"} on trial`;
  if (run.again) return `run ${run.again} again: ${run.outcomes.join(", ")}`;
  if (run.numbers.length) return run.numbers.length > 3 ? counted(run.numbers.length, "order") : run.numbers.join(", ");
  const days = [run.first_day ? `from ${day(run.first_day)}` : "", run.last_day ? `to ${day(run.last_day)}` : ""];
  return [run.lanes.length ? run.lanes.join(", ") : "everything new", ...days].filter(Boolean).join(" ");
}

/** How long it took; nothing while it is under way. */
export function took(run: Pick<RunHead, "started_at" | "ended_at">): string {
  if (!run.ended_at) return "";
  const seconds = Math.max(0, Math.round((Date.parse(run.ended_at) - Date.parse(run.started_at)) / 1000));
  return seconds < 120 ? `${seconds} s` : `${Math.round(seconds / 60)} minutes`;
}
