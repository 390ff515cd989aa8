import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { Problem } from "../../api/http";
import { runQuery, startRun, underWay } from "../../api/runs";
import type { RunHead } from "../../api/types";

/** The run of a bridge to look at: the one just started, or its last; followed until it ends. */
export function useBridgeRun(workspace: string, bridge: string, last: RunHead | null) {
  const queries = useQueryClient();
  const [started, setStarted] = useState<number | null>(null);
  const number = Math.max(started ?? 0, last?.id ?? 0);
  const followed = useQuery({ ...runQuery(workspace, number), enabled: number > 0 });
  const starting = useMutation({
    mutationFn: () => startRun(workspace, bridge),
    onSuccess: (run) => setStarted(run.id),
    onError: (error) => {
      // It runs already: follow that run.
      const running = error instanceof Problem ? error.members["run"] : undefined;
      if (typeof running === "number") setStarted(running);
    },
  });
  const run = followed.data;
  const ended = run ? !underWay(run) : false;
  useEffect(() => {
    if (ended && started) void queries.invalidateQueries({ queryKey: [workspace, "today"] });
  }, [ended, started, queries, workspace]);
  return { run, number, failed: followed.isError, running: starting.isPending || underWay(run), start: starting.mutate, failure: starting.error };
}
