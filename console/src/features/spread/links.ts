/** Which amounts of the two pages belong together, and by which rule. Pure: tested without a page. */

import type { Reason } from "../../api/types";

export interface Lit {
  pointers: ReadonlySet<string>;
  reasons: readonly Reason[];
}

export const NOTHING: Lit = { pointers: new Set(), reasons: [] };

/**
 * What lights up when somebody points at `pointer`: on the books' page the target of a reason lights
 * its sources; on the shop's page a source lights every target that it went to.
 */
export function litBy(pointer: string | null, reasons: readonly Reason[]): Lit {
  if (!pointer) return NOTHING;
  const found = reasons.filter((reason) => reason.target === pointer || reason.sources.includes(pointer));
  const pointers = new Set([pointer]);
  for (const reason of found) {
    if (reason.target === pointer) reason.sources.forEach((source) => pointers.add(source));
    else pointers.add(reason.target);
  }
  return { pointers, reasons: found };
}

/** Every pointer that some reason names: only these can be pointed at. */
export function linked(reasons: readonly Reason[]): ReadonlySet<string> {
  return new Set(reasons.flatMap((reason) => [reason.target, ...reason.sources]));
}
