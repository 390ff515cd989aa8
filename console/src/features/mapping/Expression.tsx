import { useState } from "react";

import { counted } from "../../parts/words";
import { CodeField } from "./CodeField";
import { type Comparison, comparisonOf, FIELDS, isWhole, needsValue, operatorsOf, written } from "./comparison";
import { useHits } from "./offers";
import { useRules } from "./useEditing";

interface Props {
  label: string;
  value: string;
  onChange: (expression: string) => void;
  placeholder?: string;
  /** Whether it is empty again once it was sent. */
  clears?: boolean;
}

const NOTHING: Comparison = { field: "", operator: "", value: "" };

/** An expression: chosen from fields and comparisons where it is as simple as that, and shown as it is written. */
export function Expression({ label, value, onChange, placeholder = "", clears = false }: Props) {
  const { readOnly } = useRules();
  const simple = value ? comparisonOf(value) : NOTHING;
  return (
    <div className="space-y-1">
      {simple && !readOnly ? <Chosen key={value} label={label} from={simple} clears={clears} onChange={onChange} /> : null}
      <CodeField wide clears={clears} label={label} value={value} placeholder={placeholder} onChange={onChange} />
      <Hits expression={value} />
    </div>
  );
}

/** A field, a comparison and a value; it counts as soon as it says all that it must. */
function Chosen({ label, from, clears, onChange }: { label: string; from: Comparison; clears: boolean; onChange: (expression: string) => void }) {
  const [draft, setDraft] = useState(from);
  const operators = operatorsOf(draft.field);
  const offered = FIELDS[draft.field]?.offered;
  const isNumber = FIELDS[draft.field]?.kind === "number";
  const change = (part: Partial<Comparison>) => {
    const next = { ...draft, ...part };
    // Another field may not take the comparison, and never means the same value.
    if (part.field !== undefined) Object.assign(next, { operator: Object.keys(operatorsOf(next.field))[0] ?? "", value: "" });
    const whole = isWhole(next);
    setDraft(whole && clears ? NOTHING : next);
    if (whole) onChange(written(next));
  };
  return (
    <div className="flex flex-wrap items-center gap-2">
      <select aria-label={`Field of ${label}`} className="field" value={draft.field} onChange={(event) => change({ field: event.target.value })}>
        <option value="">choose a field</option>
        {Object.entries(FIELDS).map(([name, { words }]) => (
          <option key={name} value={name}>
            {words}
          </option>
        ))}
      </select>
      {draft.field ? (
        <select aria-label={`Comparison of ${label}`} className="field" value={draft.operator} onChange={(event) => change({ operator: event.target.value })}>
          {Object.entries(operators).map(([name, words]) => (
            <option key={name} value={name}>
              {words}
            </option>
          ))}
        </select>
      ) : null}
      {draft.field && needsValue(draft) ? (
        <>
          <CodeField label={`Value of ${label}`} value={draft.value} offered={offered ? { end: "source", kind: offered } : undefined} onChange={(typed) => change({ value: typed })} />
          {isNumber ? <span className="text-sm text-faded">in the smallest coin: 19.99 is 1999</span> : null}
        </>
      ) : null}
    </div>
  );
}

/** How many orders of the last rehearsal an expression was true of. */
function Hits({ expression }: { expression: string }) {
  const found = useHits(expression);
  if (!found) return null;
  return (
    <p className="text-sm text-faded">
      True of {counted(found.orders, "order")} of the last rehearsal
      {found.unclear ? `; for ${counted(found.unclear, "order")} it came to nothing` : ""}.
    </p>
  );
}
