import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { withQuery } from "../../api/http";
import { monthQuery } from "../../api/months";
import type { SheetOf } from "../../api/tieout";
import type { Company, Month } from "../../api/types";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { moment } from "../../parts/words";
import { CloseMonth } from "./CloseMonth";
import { OpenItems } from "./OpenItems";
import { Reports } from "./Reports";
import { Since } from "./Since";

interface Props {
  companies: Company[];
  /** The whole month that is shown, of one company or of all. */
  period: SheetOf & { first: string };
}

/** Closing the month that is shown: what is still open, who accepted what, and what changed after it was closed. */
export function MonthPanel({ companies, period }: Props) {
  const { slug } = useWorkspace();
  const company = companies.find((one) => one.slug === period.company) ?? (companies.length === 1 ? companies[0] : undefined);
  const month = period.first.slice(0, 7);
  return (
    <section aria-labelledby="closing" className="sheet print:hidden">
      <h2 id="closing" className="mb-2 text-lg font-semibold">
        Closing {inWords(period.first)}
        {company ? <span className="font-normal text-faded"> of {company.name}</span> : null}
      </h2>
      {company ? (
        <OfCompany key={company.slug + month} company={company} month={month} period={period} />
      ) : (
        <p>
          A month is closed company by company:{" "}
          {companies.map((one, place) => (
            <span key={one.slug}>
              {place ? ", " : ""}
              <Link className="link" to={withQuery(`/${slug}/tie-out`, { ...period, bridge: "", company: one.slug })}>
                {one.name}
              </Link>
            </span>
          ))}
        </p>
      )}
    </section>
  );
}

const inWords = (first: string) => new Date(first).toLocaleDateString("en-GB", { month: "long", year: "numeric", timeZone: "UTC" });

function OfCompany({ company, month, period }: { company: Company; month: string; period: SheetOf }) {
  const { slug } = useWorkspace();
  const found = useQuery(monthQuery(slug, company.slug, month));
  if (found.isPending) return <Loading what="the month" lines={4} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  return (
    <div className="space-y-4">
      <p role="status">{state(found.data, company)}</p>
      <OpenItems month={found.data} period={{ ...period, company: company.slug }} />
      <Since month={found.data} />
      <CloseMonth month={found.data} />
      <Reports month={found.data} language={company.report_language} />
    </div>
  );
}

/** How far it is, in a sentence or two. */
function state(month: Month, company: Company): string {
  if (month.closing) {
    const { closed_by, closed_at, note, checksum } = month.closing;
    const said = note ? `: “${note}”` : "";
    return `Closed by ${closed_by} on ${moment(closed_at, company.time_zone)}${said}. Its figures are frozen, with checksum ${checksum.slice(0, 12)}….`;
  }
  const open = month.left === 0 ? "Nobody has to do anything more about it" : `${month.left === 1 ? "One item is" : `${month.left} items are`} to be mended, or accepted with a note`;
  const proposed = month.proposal ? ` ${month.proposal.by} proposed to close it; another person does.` : "";
  if (!month.over) return `It is not over yet. ${open} by now.`;
  return `${open}.${proposed}`;
}
