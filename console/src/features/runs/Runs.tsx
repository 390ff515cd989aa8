import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { bridgesQuery } from "../../api/bridges";
import { runsQuery } from "../../api/runs";
import type { RunHead } from "../../api/types";
import { Choice } from "../../parts/Choice";
import { Empty } from "../../parts/Empty";
import { PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { StateMark } from "../../parts/StateMark";
import { Turn } from "../../parts/Turn";
import { useFilters } from "../../parts/useFilters";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { moment } from "../../parts/words";
import { ChooseRun } from "./ChooseRun";
import { asked, took } from "./inWords";

const STATES = ["reading", "carrying", "ended", "failed", "stopped"];
const COUNTS = ["read", "carried", "held", "left_out", "waiting", "unchanged"] as const;

/** Every run, newest first: what started it, what it was asked for, and what it came to. */
export function Runs() {
  useTitle("Runs");
  const { slug, may } = useWorkspace();
  const { filters, cursor, set } = useFilters("bridge", "state");
  const page = useQuery(runsQuery(slug, { ...filters, cursor }));
  const bridges = useQuery(bridgesQuery(slug));
  const zones = new Map(bridges.data?.items.map((bridge) => [bridge.slug, bridge.time_zone]));
  return (
    <>
      <PageHead title="Runs">{may("operate") ? <ChooseRun bridges={bridges.data?.items ?? []} /> : null}</PageHead>
      <div className="mb-4 flex flex-wrap gap-x-4 gap-y-2">
        <Choice name="Bridge" value={filters.bridge} options={[...zones.keys()]} change={(bridge) => set({ bridge })} />
        <Choice name="State" value={filters.state} options={STATES} change={(state) => set({ state })} />
      </div>
      {page.isPending ? <Loading what="the runs" lines={10} /> : null}
      {page.isError ? <ProblemNote error={page.error} again={() => void page.refetch()} /> : null}
      {page.data && !page.data.items.length ? (
        <Empty title="No run to show">Start one here or on Today, or give the bridge a timetable.</Empty>
      ) : null}
      {page.data?.items.length ? (
        <>
          <RunTable runs={page.data.items} zones={zones} />
          <Turn page={page.data} go={(to) => set({ cursor: to })} />
        </>
      ) : null}
    </>
  );
}

function RunTable({ runs, zones }: { runs: RunHead[]; zones: Map<string, string> }) {
  const { slug } = useWorkspace();
  return (
    <div className="overflow-x-auto border border-line bg-page">
      <table className="w-full">
        <thead className="border-b border-ink/60">
          <tr className="*:px-3 *:py-2">
            {["Run", "Started", "State", "What it read"].map((name) => (
              <th key={name} scope="col">
                {name}
              </th>
            ))}
            {COUNTS.map((name) => (
              <th key={name} scope="col" className="text-right first-letter:uppercase">
                {name.replace("_", " ")}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {runs.map((run) => (
            <tr key={run.id} className="border-b border-line *:px-3 *:py-1.5 hover:bg-wash">
              <td>
                <Link className="link" to={`/${slug}/runs/${run.id}`}>
                  {run.id}
                </Link>
              </td>
              <td className="whitespace-nowrap">
                {moment(run.started_at, zones.get(run.bridge) ?? "UTC")}
                <span className="block text-xs text-faded">{run.by_timetable ? "by timetable" : run.started_by}</span>
              </td>
              <td>
                <StateMark state={run.state} />
                <span className="block text-xs text-faded">{took(run)}</span>
              </td>
              <td>
                {run.bridge}
                <span className="block text-xs text-faded">{asked(run)}</span>
              </td>
              {COUNTS.map((name) => (
                <td key={name} className="amount">
                  {name === "held" ? run.counts.held + run.counts.differs : name === "waiting" ? run.counts.waiting + run.counts.pending : run.counts[name]}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
