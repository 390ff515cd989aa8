import { useMutation, useQueryClient } from "@tanstack/react-query";

import { type Chosen, releaseHolds } from "../../api/holds";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";

/** Try all of a group again, once its cause is mended at one of the ends. */
export function Release({ chosen, done }: { chosen: Chosen; done: (crossings: number[]) => void }) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const releasing = useMutation({
    mutationFn: () => releaseHolds(slug, chosen),
    onSuccess: ({ crossings }) => {
      done(crossings);
      void queries.invalidateQueries({ queryKey: [slug, "holds"] });
    },
  });
  return (
    <div className="mt-3">
      <button type="button" className="button-quiet" disabled={releasing.isPending} onClick={() => releasing.mutate()}>
        Try all of them again
      </button>
      {releasing.isError ? <ProblemNote error={releasing.error} /> : null}
    </div>
  );
}
