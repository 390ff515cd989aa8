import { useQuery } from "@tanstack/react-query";

import { todayQuery } from "../../api/today";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { day } from "../../parts/words";
import { BridgePanel } from "./BridgePanel";
import { Needs } from "./Needs";
import { TieOut } from "./TieOut";

/** What needs a person now, and whether the figures tie. */
export function Today() {
  useTitle("Today");
  const workspace = useWorkspace();
  const today = useQuery(todayQuery(workspace.slug));
  if (today.isPending) return <Loading what="today" lines={12} />;
  if (today.isError) return <ProblemNote error={today.error} again={() => void today.refetch()} />;
  const { now, holds, troubled, bridges } = today.data;
  return (
    <>
      <h1 className="text-2xl font-semibold">Today</h1>
      <p className="mb-5 text-faded">
        {workspace.name}, {day(now)}
      </p>
      <div className="grid gap-5 xl:grid-cols-[3fr_2fr]">
        <div className="min-w-0 space-y-5">
          <Needs holds={holds} troubled={troubled} />
          <TieOut today={today.data} />
        </div>
        <section aria-labelledby="bridges" className="min-w-0 space-y-5">
          <h2 id="bridges" className="sr-only">
            Bridges
          </h2>
          {bridges.map((bridge) => (
            <BridgePanel key={bridge.slug} bridge={bridge} />
          ))}
          {bridges.length ? null : (
            <p className="sheet text-faded">
              No bridge yet. Connect a shop and the books, then make one with <code>inkwell bridges add</code>.
            </p>
          )}
        </section>
      </div>
    </>
  );
}
