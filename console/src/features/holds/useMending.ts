import { useMutation, useQueryClient } from "@tanstack/react-query";

import { type Chosen, releaseHolds } from "../../api/holds";
import { useWorkspace } from "../../parts/useWorkspace";

/** Put what mends a cause in force, then let all go that waited for it; `done` is told which these were. */
export function useMending(chosen: Chosen, put: () => Promise<unknown>, done: (crossings: number[]) => void) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async () => {
      await put();
      return releaseHolds(slug, chosen);
    },
    onSuccess: ({ crossings }) => {
      done(crossings);
      void queries.invalidateQueries({ queryKey: [slug] });
    },
  });
}
