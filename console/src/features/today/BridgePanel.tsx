import type { Today } from "../../api/types";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { moment } from "../../parts/words";
import { RunReport } from "../runs/RunReport";
import { DaysTie } from "./DaysTie";
import { useBridgeRun } from "./useBridgeRun";

/** A bridge: its run button, and its run as it goes. */
export function BridgePanel({ bridge }: { bridge: Today["bridges"][number] }) {
  const { slug, may } = useWorkspace();
  const { run, number, failed, running, start, failure } = useBridgeRun(slug, bridge.slug, bridge.last_run);
  return (
    <section aria-label={bridge.name} className="sheet">
      <div className="flex items-start justify-between gap-3">
        <div>
          <h3 className="text-lg font-semibold">{bridge.name}</h3>
          <p className="text-sm text-faded">
            {bridge.next_at ? `Runs next by itself on ${moment(bridge.next_at, bridge.time_zone)}` : "Runs by hand; no timetable is set"}
          </p>
        </div>
        {may("operate") ? (
          <button type="button" className="button shrink-0" disabled={running} onClick={() => start()}>
            {running ? "Running…" : "Run now"}
          </button>
        ) : null}
      </div>
      <DaysTie bridge={bridge.slug} days={bridge.days} />
      {failure && !running ? <ProblemNote error={failure} /> : null}
      {run ? (
        <RunReport run={run} timeZone={bridge.time_zone} />
      ) : (
        <p className="mt-4 text-faded" aria-live="polite">
          {withoutRun(number, failed)}
        </p>
      )}
    </section>
  );
}

function withoutRun(number: number, failed: boolean): string {
  if (!number) return "It never ran. “Run now” reads what is new and carries it.";
  return failed ? `Run ${number} could not be fetched; reload the page to try again.` : `Fetching run ${number}…`;
}
