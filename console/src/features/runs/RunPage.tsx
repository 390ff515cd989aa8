import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useParams } from "react-router";

import { bridgeQuery } from "../../api/bridges";
import { runAgain, runQuery, startRun, theRestOf, underWay } from "../../api/runs";
import type { Run } from "../../api/types";
import { PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted } from "../../parts/words";
import { asked, took } from "./inWords";
import { RunReport } from "./RunReport";

/** One run, while it is under way as well as after; some or all of it can be run again. */
export function RunPage() {
  const { slug, may } = useWorkspace();
  const number = Number(useParams().run);
  useTitle(`Run ${number}`);
  const found = useQuery(runQuery(slug, number));
  const bridge = useQuery({ ...bridgeQuery(slug, found.data?.bridge ?? ""), enabled: found.data !== undefined });
  if (found.isPending) return <Loading what={`run ${number}`} lines={8} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  const run = found.data;
  return (
    <>
      <PageHead title={`Run ${run.id}`} />
      <section className="sheet max-w-2xl">
        <p>
          {bridge.data?.name ?? run.bridge}: {asked(run)}
          {run.ended_at ? `, in ${took(run)}` : ""}
        </p>
        <RunReport run={run} timeZone={bridge.data?.time_zone ?? "UTC"} />
        {may("operate") && run.state === "stopped" && run.purpose === "carry" ? <GoOn run={run} /> : null}
        {may("operate") && !underWay(run) && run.purpose === "carry" ? <Again run={run} /> : null}
      </section>
    </>
  );
}

/** A run that was stopped half-way, a first load above all, goes on where it was. */
function GoOn({ run }: { run: Run }) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const starting = useMutation({
    mutationFn: () => startRun(slug, run.bridge, theRestOf(run)),
    onSuccess: (started) => {
      void queries.invalidateQueries({ queryKey: [slug, "runs"] });
      void navigate(`/${slug}/runs/${started.id}`);
    },
  });
  return (
    <div className="mt-4 border-t border-line pt-3">
      <button type="button" className="button" disabled={starting.isPending} onClick={() => starting.mutate()}>
        {starting.isPending ? "Starting…" : "Go on where it stopped"}
      </button>
      {starting.isError ? <ProblemNote error={starting.error} /> : null}
    </div>
  );
}

function Again({ run }: { run: Run }) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const starting = useMutation({
    mutationFn: (outcomes: string[]) => runAgain(slug, run.id, outcomes),
    onSuccess: (started) => {
      void queries.invalidateQueries({ queryKey: [slug, "runs"] });
      void navigate(`/${slug}/runs/${started.id}`);
    },
  });
  const offers: [string, number, string[]][] = [
    ["held", run.counts.held + run.counts.differs, ["held", "differs"]],
    ["left out", run.counts.left_out, ["left out"]],
  ];
  return (
    <div className="mt-4 border-t border-line pt-3">
      <div className="flex flex-wrap gap-3">
        {offers
          .filter(([, number]) => number > 0)
          .map(([name, number, outcomes]) => (
            <button key={name} type="button" className="button-quiet" disabled={starting.isPending} onClick={() => starting.mutate(outcomes)}>
              Run {counted(number, `${name} one`)} again
            </button>
          ))}
      </div>
      {starting.isError ? <ProblemNote error={starting.error} /> : null}
    </div>
  );
}
