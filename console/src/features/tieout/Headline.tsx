import { Link } from "react-router";

import type { AmountOf, SheetOf } from "../../api/tieout";
import type { SheetRow, SheetTotals } from "../../api/types";
import { amountText, isZero } from "../../parts/Amount";
import { useWorkspace } from "../../parts/useWorkspace";
import { behind, reasonInWords, SECTIONS } from "./place";

interface Props {
  row: SheetRow;
  period: SheetOf;
  /** The reasons beneath the sides, where there is no room beside them. */
  narrow?: boolean;
}

const FIGURES = [
  ["count", "Documents"],
  ["net", "Net"],
  ["tax", "Tax"],
  ["gross", "Gross"],
] as const;

const LINKED = "underline decoration-line underline-offset-2 hover:decoration-current";

/** One section in one currency: both sides and the difference in a row, and beside them the reasons that make it up. */
export function Headline({ row, period, narrow = false }: Props) {
  const { slug } = useWorkspace();
  const amount: AmountOf = { section: row.section, currency: row.currency };
  // Beneath a heading of its page where it is narrow, and one of its own where it is not.
  const Head = narrow ? "h3" : "h2";
  const title = `${SECTIONS[row.section] ?? row.section}, ${row.currency || "no currency"}`;
  return (
    <section aria-label={title} className="mt-5 first:mt-0">
      <Head className="mb-1 text-base font-semibold">{title}</Head>
      <div className={`grid items-start gap-x-8 gap-y-2 *:min-w-0 ${narrow ? "" : "lg:grid-cols-[5fr_7fr]"}`}>
        <table className="w-full table-fixed">
          <thead>
            <tr className="border-b border-ink/60">
              <td className="w-1/5 py-1" />
              {["Sales side", "The books", "Difference"].map((name) => (
                <th key={name} scope="col" className="text-right">
                  {name === "Difference" ? (
                    name
                  ) : (
                    <Link className={LINKED} to={behind(slug, period, amount)}>
                      {name}
                    </Link>
                  )}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {FIGURES.map(([of, name]) => (
              <tr key={of} className={`border-b border-line ${of === "gross" ? "font-medium" : ""}`}>
                <th scope="row" className="py-1 text-sm font-normal text-ink">
                  {name}
                </th>
                <td className="amount">{figure(row.source, of)}</td>
                <td className="amount">{figure(row.books, of)}</td>
                <td className={`amount ${row.ties ? "" : "text-madder"}`}>{figure(row.difference, of)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <Reasons row={row} period={period} amount={amount} />
      </div>
    </section>
  );
}

/** The parts of the difference; what is open stands out, and each leads to the documents behind it. */
function Reasons({ row, period, amount }: Omit<Props, "narrow"> & { amount: AmountOf }) {
  const { slug } = useWorkspace();
  const parts = row.parts.filter((part) => part.reason !== "unexplained").map((part) => ({ ...part, totals: part as SheetTotals }));
  const unexplained = row.parts.some((part) => part.reason === "unexplained") || !isNothing(row.unexplained);
  if (unexplained) parts.push({ ...row.unexplained, reason: "unexplained", detail: "", documents: null, settled: false, totals: row.unexplained });
  if (!parts.length) return <p className="text-sm text-moss">Both sides are the same.</p>;
  return (
    <table className="w-full">
      <thead>
        <tr className="border-b border-ink/60">
          <th scope="col" className="py-1">
            Of the difference
          </th>
          {FIGURES.map(([of, name]) => (
            <th key={of} scope="col" className={`pl-3 text-right ${inWide(of)}`}>
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {parts.map((part) => (
          <tr key={part.reason + part.detail} className={`border-b border-line align-baseline ${part.settled ? "text-faded" : "text-madder"}`}>
            <th scope="row" className={`py-1 text-sm font-normal ${part.settled ? "text-faded" : "text-madder"}`}>
              <Link className={LINKED} to={behind(slug, period, { ...amount, reason: part.reason, detail: part.detail })}>
                {reasonInWords(part.reason, part.detail)}
              </Link>
            </th>
            {FIGURES.map(([of]) => (
              <td key={of} className={`amount pl-3 ${inWide(of)}`}>
                {figure(part.totals, of)}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Net and tax only where there is room for four columns. */
const inWide = (of: string) => (of === "net" || of === "tax" ? "max-md:hidden" : "");

const figure = (totals: SheetTotals, of: (typeof FIGURES)[number][0]) => amountText(String(totals[of]));

const isNothing = (totals: SheetTotals) => totals.count === 0 && [totals.net, totals.tax, totals.gross].every(isZero);
