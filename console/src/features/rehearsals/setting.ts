import type { Operation } from "../../api/types";

const partsOf = (pointer: string) => pointer.split("/").slice(1).map((part) => part.replaceAll("~1", "/").replaceAll("~0", "~"));
const pointerOf = (parts: string[]) => parts.map((part) => `/${part.replaceAll("~", "~0").replaceAll("/", "~1")}`).join("");

/** What stands at a pointer; nothing where it leads nowhere. */
export const valueAt = (values: unknown, path: string): unknown =>
  partsOf(path).reduce<unknown>((there, part) => (there as Record<string, unknown> | null | undefined)?.[part], values);

/** The one operation that sets a key, with those of the groups above it that are not there yet. A plain code where a
 * group is wanted becomes the default of that group. */
export function setting(values: unknown, path: string, value: unknown): Operation {
  const parts = partsOf(path);
  let there: unknown = values;
  for (const [depth, part] of parts.entries()) {
    const below = (from: number) => parts.slice(from).reduceRight<unknown>((inner, name) => ({ [name]: inner }), value);
    if (typeof there === "string") {
      const group = { default: there, ...(below(depth) as Record<string, unknown>) };
      return { op: "replace", path: pointerOf(parts.slice(0, depth)), value: group };
    }
    const group = there as Record<string, unknown> | null;
    if (!group || group[part] === undefined || group[part] === null) {
      return { op: "add", path: pointerOf(parts.slice(0, depth + 1)), value: below(depth + 1) };
    }
    there = group[part];
  }
  return { op: "replace", path, value };
}
