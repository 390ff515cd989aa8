import { useMutation, useQueryClient } from "@tanstack/react-query";

import { carryForGood, takeBack } from "../../api/crossings";
import type { SpreadAnswer } from "../../api/types";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";

/** An order whose documents stand in the books as drafts: compared there, then taken back or carried. */
export function OnTrial({ spread }: { spread: SpreadAnswer }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const ending = useMutation({
    mutationFn: (end: typeof takeBack) => end(slug, spread.id),
    onSuccess: () => queries.invalidateQueries({ queryKey: [slug] }),
  });
  const there = spread.state === "waiting";
  return (
    <section aria-label="On trial" className="sheet mb-4 border-l-4 border-l-ochre">
      <p role="status">
        {there
          ? "On its way to the books, as drafts…"
          : "On trial: its documents stand in the books as drafts, and count there for nothing. Compare both pages, then end the trial."}
      </p>
      {ending.isError ? <ProblemNote error={ending.error} /> : null}
      {may("operate") && !there ? (
        <div className="mt-3 flex flex-wrap gap-3">
          <button type="button" className="button" disabled={ending.isPending} onClick={() => ending.mutate(takeBack)}>
            Take it back
          </button>
          <button type="button" className="button-quiet" disabled={ending.isPending} onClick={() => ending.mutate(carryForGood)}>
            Carry it for good
          </button>
        </div>
      ) : null}
    </section>
  );
}
