import { Problem } from "../../api/http";
import type { Finding } from "../../api/types";

/** What the service found wrong with a text that it refused. */
export function findingsOf(error: Error | null): Finding[] {
  const members = error instanceof Problem && error.code === "rulebook-invalid" ? error.members.errors : [];
  return (members as unknown as Record<string, string | number>[]).map((one) => ({
    id: String(one.code ?? ""),
    level: "error",
    text: String(one.detail ?? ""),
    hint: String(one.hint ?? ""),
    at: String(one.pointer ?? ""),
    line: Number(one.line ?? 0) || null,
  })) as Finding[];
}
