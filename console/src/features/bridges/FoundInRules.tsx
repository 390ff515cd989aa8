import type { Finding } from "../../api/types";
import { isOf } from "../mapping/subject";

const SIGNS: Record<string, string> = { error: "✗", warning: "!", note: "·" };

/** Everything found in the rules, each with its line, which a click leads to. */
export function FoundInRules({
  findings,
  file,
  checked,
  nothing = "Nothing: it fits what both ends were loaded with.",
  onLine,
}: {
  findings: Finding[];
  /** What they call the text; what is found in one that it builds on has no line here. */
  file: string;
  checked: boolean;
  /** What is said where nothing was found. */
  nothing?: string;
  onLine: (line: number) => void;
}) {
  return (
    <section aria-labelledby="found" className="sheet">
      <h2 id="found" className="mb-2 text-lg font-semibold">
        Found in it
      </h2>
      {findings.length ? null : (
        <p className="text-faded">
          {checked ? nothing : "It is checked when you save it."}
        </p>
      )}
      <div role="alert">
        <ul className="space-y-3">
          {findings.map((finding) => (
            <li key={`${finding.id}${finding.line}${finding.at}`}>
              <span className={finding.level === "error" ? "text-madder" : "text-ochre"}>
                <span aria-hidden="true">{SIGNS[finding.level] ?? "·"}</span> {finding.level}
              </span>{" "}
              {finding.line && isOf(finding, file) ? (
                <button type="button" className="link" onClick={() => onLine(finding.line ?? 1)}>
                  line {finding.line}
                </button>
              ) : null}
              <p>{finding.text}</p>
              <p className="text-sm text-faded">{finding.hint}</p>
            </li>
          ))}
        </ul>
      </div>
    </section>
  );
}
