import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { type DecisionKind, decide, takeDecisionBack } from "../../api/holds";
import { Labelled } from "../../parts/Labelled";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";

const KINDS: [DecisionKind, string][] = [
  ["leave out", "Leave it out"],
  ["by hand", "It was settled in the books by hand"],
  ["accept difference", "Accept the difference"],
  ["keep posted", "Keep what was posted"],
  ["post the difference", "Take the newer version: post what the order changed by"],
  ["keep theirs", "Keep what was changed in the books, and post what the order changed by"],
  ["put ours back", "Put ours back, by further documents"],
  ["credit and reissue", "Credit what stands there, and make it anew"],
];
// A decision that is about one cause is offered for no other.
const ONLY_FOR: Partial<Record<DecisionKind, string[]>> = {
  "accept difference": ["penny-over-allowance", "not-proved", "changed-in-books"],
  "post the difference": ["source-changed"],
  "keep theirs": ["edited-in-books"],
  "put ours back": ["edited-in-books", "changed-in-books", "voided-in-books", "missing-in-books", "not-proved"],
  // Of what does not stand there any more there is nothing to credit: it is put back.
  "credit and reissue": ["changed-in-books", "not-proved"],
};

// The notes of a document that stays as it was posted, or as the books have it, by a decision.
const DECIDED = ["SRC-N012", "PROOF-N004"];

interface Props {
  crossing: { id: number; state: string; cause: string; left_out_by: string; findings: { id: string }[]; changes: unknown[] };
}

/** Deciding for one document that is held, instead of mending its cause; with a reason, which is kept. */
export function Decide({ crossing }: Props) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const [kind, setKind] = useState<DecisionKind | "">("");
  const [note, setNote] = useState("");
  const kept = crossing.state === "carried" && crossing.findings.some((one) => DECIDED.includes(one.id));
  const decided = kept || (crossing.state === "left out" && /^(decided|settled by hand) by /.test(crossing.left_out_by));
  const done = () => {
    setKind("");
    setNote("");
    return queries.invalidateQueries({ queryKey: [slug] });
  };
  const deciding = useMutation({ mutationFn: () => decide(slug, crossing.id, kind as DecisionKind, note), onSuccess: done });
  const takingBack = useMutation({ mutationFn: () => takeDecisionBack(slug, crossing.id), onSuccess: done });
  const differs = crossing.state === "differs";
  if (!may("operate") || !(crossing.state === "held" || differs || decided)) return null;
  if (decided) {
    return (
      <div className="mb-4">
        <button type="button" className="button-quiet" disabled={takingBack.isPending} onClick={() => takingBack.mutate()}>
          Take the decision back
        </button>
        {takingBack.isError ? <ProblemNote error={takingBack.error} /> : null}
      </div>
    );
  }
  const offered = KINDS.filter(([one]) =>
    // What was posted can be kept whatever holds the order, once it is another than it was then.
    one === "keep posted" ? crossing.changes.length > 0 : (ONLY_FOR[one]?.includes(crossing.cause) ?? !differs),
  );
  return (
    <form
      className="mb-4 flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        deciding.mutate();
      }}
    >
      <label>
        <span className="mb-1 block font-medium">Decide for this one</span>
        <select className="field" value={kind} onChange={(event) => setKind(event.target.value as DecisionKind | "")}>
          <option value="">mend its cause instead</option>
          {offered.map(([one, name]) => (
            <option key={one} value={one}>
              {name}
            </option>
          ))}
        </select>
      </label>
      {kind ? (
        <>
          <div className="min-w-64 flex-1">
            <Labelled label="Reason" value={note} onChange={setNote} required />
          </div>
          <button type="submit" className="button" disabled={deciding.isPending || !note.trim()}>
            Decide
          </button>
        </>
      ) : null}
      {deciding.isError ? <ProblemNote error={deciding.error} /> : null}
    </form>
  );
}
