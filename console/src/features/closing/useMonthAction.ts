import { useMutation, useQueryClient } from "@tanstack/react-query";

import { monthQuery } from "../../api/months";
import type { Month } from "../../api/types";
import { useWorkspace } from "../../parts/useWorkspace";

/** Something that is done about a month: what it answers takes the place of what was shown; refused, it is read anew. */
export function useMonthAction<Given = void>(month: Month, act: (slug: string, company: string, name: string, given: Given) => Promise<Month>, done?: () => void) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (given: Given) => act(slug, month.company, month.month, given),
    onSuccess: (answer) => {
      queries.setQueryData(monthQuery(slug, month.company, month.month).queryKey, answer);
      done?.();
    },
    onError: () => void queries.invalidateQueries({ queryKey: [slug, "months"] }),
  });
}
