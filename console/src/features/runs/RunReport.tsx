import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { withQuery } from "../../api/http";
import { stopRun } from "../../api/runs";
import type { Run } from "../../api/types";
import { Amount, isZero } from "../../parts/Amount";
import { ProblemNote } from "../../parts/Problem";
import { StateMark } from "../../parts/StateMark";
import { useWorkspace } from "../../parts/useWorkspace";
import { clockTime, counted, moment } from "../../parts/words";
import { outcomesOf, progressOf } from "./progress";

/** A run as it goes, and what it came to: every count opens its documents. */
export function RunReport({ run, timeZone }: { run: Run; timeZone: string }) {
  const { slug } = useWorkspace();
  const progress = progressOf(run.counts);
  const under = run.state === "reading" || run.state === "carrying";
  return (
    <div className="mt-4 border-t border-line pt-3">
      <p className="flex flex-wrap justify-between gap-2" aria-live="polite">
        <span>
          <Link className="link" to={`/${slug}/runs/${run.id}`}>
            Run {run.id}
          </Link>
          : <StateMark state={run.state} />
        </span>
        <span className="text-sm text-faded">
          {moment(run.started_at, timeZone)}, {run.by_timetable ? "by timetable" : run.started_by}
        </span>
      </p>
      {under ? (
        <progress
          className="mt-2 h-2 w-full accent-blue"
          aria-label="Documents done"
          {...(progress ? { value: progress.done, max: progress.all } : {})}
        />
      ) : null}
      {under ? <StopRun run={run} /> : null}
      {run.waits ? (
        <p role="status" className="mt-2 border-l-4 border-ochre pl-3">
          {run.waits.documents ? `${counted(run.waits.documents, "document")} waiting` : "Waiting"}: {run.waits.text}{" "}
          <span className="text-faded">Next try {clockTime(run.waits.next_try_at)}.</span>
        </p>
      ) : run.trouble ? (
        <p className="mt-2 border-l-4 border-madder pl-3">{run.trouble}</p>
      ) : null}
      <dl className="mt-3 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
        <dt className="amount">{run.counts.read}</dt>
        <dd>read</dd>
        {outcomesOf(run.counts).map(({ outcome, name, number }) => (
          <div key={outcome} className="contents">
            <dt className="amount">{number}</dt>
            <dd>
              {outcome === "unchanged" ? (
                name
              ) : (
                <Link className="link" to={withQuery(`/${slug}/documents`, { run: run.id, outcome })}>
                  {name}
                </Link>
              )}
            </dd>
          </div>
        ))}
      </dl>
      {run.totals.map((totals) => (
        <p key={totals.currency} className="mt-3 text-sm text-faded">
          Carried: the shop <Amount value={totals.source.gross} currency={totals.currency} />, the books{" "}
          <Amount value={totals.books.gross} currency={totals.currency} />,{" "}
          {isZero(totals.withheld.gross) ? null : (
            <>
              kept by a marketplace <Amount value={totals.withheld.gross} currency={totals.currency} />,{" "}
            </>
          )}
          {isZero(totals.vouchers.gross) ? null : (
            <>
              paid by vouchers taxed when sold <Amount value={totals.vouchers.gross} currency={totals.currency} />,{" "}
            </>
          )}
          {isZero(totals.cancelled.gross) ? null : (
            <>
              cancelled after it was posted <Amount value={totals.cancelled.gross} currency={totals.currency} />,{" "}
            </>
          )}
          {isZero(totals.converted.gross) ? null : (
            <>
              converted between currencies <Amount value={totals.converted.gross} currency={totals.currency} />,{" "}
            </>
          )}
          difference{" "}
          <Amount value={totals.difference.gross} currency={totals.currency} />
        </p>
      ))}
    </div>
  );
}

/** Ending a run that does not come to an end; asked twice, for it is seldom what somebody wants. */
function StopRun({ run }: { run: Run }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const [asked, ask] = useState(false);
  const stopping = useMutation({
    mutationFn: () => stopRun(slug, run.id),
    onSettled: () => queries.invalidateQueries({ queryKey: [slug] }),
  });
  if (!may("operate")) return null;
  if (!asked)
    return (
      <button type="button" className="link mt-2 text-sm" onClick={() => ask(true)}>
        Stop this run
      </button>
    );
  return (
    <div className="mt-2 text-sm">
      <p>The run ends and the bridge can start another; what it has read is carried all the same.</p>
      <div className="mt-1 flex gap-3">
        <button type="button" className="button" disabled={stopping.isPending} onClick={() => stopping.mutate()}>
          Stop run {run.id}
        </button>
        <button type="button" className="link" onClick={() => ask(false)}>
          Let it go on
        </button>
      </div>
      {stopping.isError ? <ProblemNote error={stopping.error} /> : null}
    </div>
  );
}
