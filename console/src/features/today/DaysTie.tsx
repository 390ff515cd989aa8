import { Link } from "react-router";

import { withQuery } from "../../api/http";
import type { Today } from "../../api/types";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted, day } from "../../parts/words";

interface Props {
  bridge: string;
  days: Today["bridges"][number]["days"];
}

/** The days of the month over one bridge: which of them tie. Each leads to its sheet. */
export function DaysTie({ bridge, days }: Props) {
  const { slug } = useWorkspace();
  if (!days.length) return null;
  const open = days.filter((one) => !one.ties).length;
  return (
    <div className="mt-3">
      <p className="text-sm text-faded">{open ? `${counted(open, "day")} of ${days.length} do not tie yet` : `All ${days.length} days tie`}</p>
      <ol className="mt-1 flex flex-wrap gap-0.5">
        {days.map((one) => (
          <li key={one.day}>
            <Link
              className={`block size-6 border text-center text-xs leading-6 tabular-nums ${one.ties ? "border-line text-moss" : "border-madder bg-madder text-page"}`}
              to={withQuery(`/${slug}/tie-out`, { first: one.day, last: one.day, bridge })}
              aria-label={`${day(one.day)}: ${one.ties ? "ties" : "does not tie"}`}
              title={`${day(one.day)}: ${one.ties ? "ties" : "does not tie"}`}
            >
              {Number(one.day.slice(-2))}
            </Link>
          </li>
        ))}
      </ol>
    </div>
  );
}
