import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { paidOutQuery, type SheetOf } from "../../api/tieout";
import { Amount } from "../../parts/Amount";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";

/** What providers paid out, and what they took before, kind by kind: as they tell it, and as the books hold it. */
export function PaidOut({ period }: { period: SheetOf }) {
  const { slug } = useWorkspace();
  const found = useQuery(paidOutQuery(slug, period));
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  if (!found.data?.length) return null;
  return (
    <section aria-labelledby="paid-out" className="sheet">
      <h2 id="paid-out" className="text-lg font-semibold">
        Paid out
      </h2>
      <div className="overflow-x-auto">
        <table className="w-full">
          <caption className="text-left text-sm text-faded">
            As providers tell it, and as the journals of their payouts stand in the books; what they took is below zero
          </caption>
          <thead>
            <tr className="border-b border-ink/60">
              <th scope="col">What</th>
              {["Provider", "The books", "Difference"].map((name) => (
                <th key={name} scope="col" className="pl-3 text-right">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {found.data.map((row) => (
              <tr key={row.bridge + row.currency + row.what} className="border-b border-line align-baseline">
                <th scope="row" className={`py-1 text-base text-ink ${row.what === "Paid out" ? "font-semibold" : "font-normal"}`}>
                  {row.what}{" "}
                  <Link className="link text-sm font-normal" to={`/${slug}/documents?kind=payouts&bridge=${row.bridge}`}>
                    {row.bridge}
                  </Link>{" "}
                  <span className="text-sm font-normal text-faded">{row.currency}</span>
                </th>
                <td className="amount pl-3">
                  <Amount value={row.source} />
                </td>
                <td className="amount pl-3">
                  <Amount value={row.books} />
                </td>
                <td className={`amount pl-3 ${Number(row.difference) ? "text-madder" : ""}`}>
                  <Amount value={row.difference} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
