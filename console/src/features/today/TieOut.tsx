import { Link } from "react-router";

import { withQuery } from "../../api/http";
import type { Today } from "../../api/types";
import { useWorkspace } from "../../parts/useWorkspace";
import { day } from "../../parts/words";
import { Headline } from "../tieout/Headline";
import { Verdict } from "../tieout/Verdict";

/** Whether the month ties: both sides of sales and refunds together, and why they differ. */
export function TieOut({ today }: { today: Today }) {
  const { slug } = useWorkspace();
  const period = { first: today.first, last: today.last };
  const rows = today.rows.filter((row) => row.section === "both" || !today.rows.some((other) => other.section === "both" && other.currency === row.currency));
  return (
    <section aria-labelledby="tie-out" className="sheet">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 id="tie-out" className="text-lg font-semibold">
          Do the figures tie
        </h2>
        <Link className="link" to={withQuery(`/${slug}/tie-out`, period)}>
          The whole sheet
        </Link>
      </div>
      <p className="mb-3 text-sm text-faded">
        {day(today.first)} to {day(today.last)}, each side by its own days
      </p>
      {rows.length ? <Verdict ties={today.ties} differing={today.differing} rows={today.rows} /> : <p className="text-faded">Nothing of this month stands on either side yet.</p>}
      {rows.map((row) => (
        <Headline key={row.currency} row={row} period={period} narrow />
      ))}
    </section>
  );
}
