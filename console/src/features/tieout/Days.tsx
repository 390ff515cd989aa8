import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { withQuery } from "../../api/http";
import { sheetDaysQuery, type SheetOf } from "../../api/tieout";
import type { SheetRow } from "../../api/types";
import { Amount, isZero } from "../../parts/Amount";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted, day } from "../../parts/words";
import { reasonInWords } from "./place";

/** Both sides of every day, one currency after the other; a day leads to its own sheet. */
export function Days({ period, currencies }: { period: SheetOf; currencies: string[] }) {
  const { slug } = useWorkspace();
  const found = useQuery(sheetDaysQuery(slug, period));
  if (found.isPending) return <Loading what="the days" lines={8} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  return (
    <section aria-labelledby="days" className="sheet">
      <h2 id="days" className="mb-2 text-lg font-semibold">
        Day by day
      </h2>
      {currencies.map((currency) => (
        <OfCurrency key={currency} currency={currency} rows={inTotal(found.data.filter((row) => row.currency === currency))} period={period} />
      ))}
    </section>
  );
}

// On a narrow page the sides and the difference stay; why leads on from the day.
const WIDE = "max-md:hidden";
const HEADS = [
  ["Day", ""],
  ["Documents", `text-right ${WIDE}`],
  ["Sales side", "text-right"],
  ["The books", "text-right"],
  ["Difference", "text-right"],
  ["Why", WIDE],
] as const;

/** Of each day the row of sales and refunds together, where it has both. */
const inTotal = (rows: SheetRow[]) => rows.filter((row) => row.section === "both" || !rows.some((other) => other.section === "both" && other.day === row.day));

function OfCurrency({ currency, rows, period }: { currency: string; rows: SheetRow[]; period: SheetOf }) {
  const { slug } = useWorkspace();
  return (
    <div className="mt-3 overflow-x-auto">
      <table className="w-full max-md:text-sm">
        <caption className="text-left text-sm text-faded">Gross of sales and refunds together, in {currency}</caption>
        <thead className="border-b border-ink/60">
          <tr className="*:px-3 *:py-2 max-md:*:px-0.5">
            {HEADS.map(([name, where]) => (
              <th key={name} scope="col" className={where}>
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.day} className="border-b border-line align-baseline *:px-3 *:py-1 max-md:*:px-0.5">
              <th scope="row" className="text-sm font-normal whitespace-nowrap text-ink">
                <span aria-hidden="true" className={row.ties ? "text-moss" : "text-madder"}>
                  {row.ties ? "●" : "○"}
                </span>{" "}
                <Link className="link" to={withQuery(`/${slug}/tie-out`, { ...period, first: row.day ?? "", last: row.day ?? "" })}>
                  {day(row.day ?? "")}
                </Link>
                <span className="sr-only">{row.ties ? ", ties" : ", does not tie"}</span>
              </th>
              <td className={`amount ${WIDE}`}>{row.source.count}</td>
              <td className="amount">
                <Amount value={row.source.gross} />
              </td>
              <td className="amount">
                <Amount value={row.books.gross} />
              </td>
              <td className={`amount ${row.ties ? "" : "text-madder"}`}>{isZero(row.difference.gross) ? "" : <Amount value={row.difference.gross} />}</td>
              <td className={`min-w-40 text-sm text-faded ${WIDE}`}>{why(row)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** The reasons that documents stand behind; sums of rounding say nothing of a day. */
const why = (row: SheetRow) =>
  row.parts
    .filter((part) => part.documents !== null)
    .map((part) => `${counted(part.documents ?? 0, "document")} ${reasonInWords(part.reason, part.detail)}`)
    .join("; ");
