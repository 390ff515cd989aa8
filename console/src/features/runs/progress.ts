import type { Counts } from "../../api/types";

/** How far a run has come, in whole documents; nothing while it is not known how many there are. */
export function progressOf(counts: Counts): { done: number; all: number } | null {
  return counts.read ? { done: counts.read - counts.pending, all: counts.read } : null;
}

const OUTCOMES = [
  ["carried", "carried"],
  ["held", "held"],
  ["differs", "differing"],
  ["left_out", "left out"],
  ["adopted", "adopted"],
  ["waiting", "waiting"],
  ["unchanged", "unchanged"],
] as const;

/** The outcomes that occurred, each with its number and the name it is filtered by. */
export function outcomesOf(counts: Counts): { outcome: string; name: string; number: number }[] {
  return OUTCOMES.filter(([key]) => counts[key] > 0).map(([key, name]) => ({
    outcome: key.replace("_", " "),
    name,
    number: counts[key],
  }));
}
