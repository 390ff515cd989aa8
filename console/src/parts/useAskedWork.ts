import { type QueryKey, useMutation, useQuery, useQueryClient, type UseQueryOptions } from "@tanstack/react-query";
import { useEffect } from "react";

/** Work in the background, followed to its end, with its cancelling; ``list`` is what says how each ended. */
export function useAskedWork<Work extends { state: string }, Key extends QueryKey>(
  found: UseQueryOptions<Work, Error, Work, Key>,
  list: QueryKey,
  cancel: () => Promise<Work>,
) {
  const queries = useQueryClient();
  const work = useQuery(found);
  const cancelling = useMutation({ mutationFn: cancel, onSuccess: () => queries.invalidateQueries({ queryKey: list.slice(0, 1) }) });
  const state = work.data?.state;
  const key = JSON.stringify(list);
  useEffect(() => {
    if (state) void queries.invalidateQueries({ queryKey: JSON.parse(key) as QueryKey });
  }, [queries, key, state]);
  return { work, cancelling };
}
