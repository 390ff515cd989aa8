import { useInfiniteQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { Link } from "react-router";

import { type AmountOf, behindQuery, type SheetOf } from "../../api/tieout";
import { Amount } from "../../parts/Amount";
import { Heads } from "../../parts/Heads";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted, day, KINDS } from "../../parts/words";
import { HELD_FOR, reasonInWords, SECTIONS } from "./place";

interface Props {
  period: SheetOf;
  amount: AmountOf;
  close: () => void;
}

/** The documents behind an amount of the sheet, each with what it has on both sides. */
export function BehindList({ period, amount, close }: Props) {
  const { slug } = useWorkspace();
  const head = useRef<HTMLHeadingElement>(null);
  const asked = JSON.stringify(amount);
  // Whoever asked for it looks at it next, with a screen reader too.
  useEffect(() => head.current?.focus(), [asked]);
  const found = useInfiniteQuery(behindQuery(slug, period, amount));
  // On an account stands the net; its tax is elsewhere.
  const measure = amount.account ? "net" : "gross";
  const rows = found.data?.pages.flatMap((page) => page.documents) ?? [];
  return (
    <section aria-labelledby="behind" className="sheet">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 id="behind" ref={head} tabIndex={-1} className="text-lg font-semibold outline-none">
          {titleOf(amount)}
        </h2>
        <button type="button" className="button-quiet" onClick={close}>
          Close
        </button>
      </div>
      {found.isPending ? <Loading what="the documents" lines={5} /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {found.data && !rows.length ? <p className="mt-2 text-faded">No document stands behind it any more.</p> : null}
      {rows.length ? (
        <div className="mt-2 overflow-x-auto">
          <table className="w-full">
            <Heads names={["Document", "Day", "Sales side>", "The books>", "Difference>", "Why"]} />
            <tbody>
              {rows.map((row) => (
                <tr key={row.id + row.currency} className="border-b border-line align-baseline *:px-3 *:py-1">
                  <th scope="row" className="text-base font-medium whitespace-nowrap text-ink">
                    <Link className="link" to={`/${slug}/documents/${row.id}`}>
                      {row.number}
                    </Link>{" "}
                    <span className="text-xs font-normal text-faded">{KINDS[row.kind] || row.kind}</span>
                  </th>
                  <td className="whitespace-nowrap">{row.date ? day(row.date) : "–"}</td>
                  <td className="amount">
                    <Amount value={row.source[measure]} />
                  </td>
                  <td className="amount">
                    <Amount value={row.books[measure]} />
                  </td>
                  <td className="amount">
                    <Amount value={row.difference[measure]} currency={row.currency} />
                  </td>
                  <td className="min-w-48 text-sm text-faded">
                    {row.reasons.map((reason) => reasonInWords(reason, reason === "left out" || HELD_FOR.includes(reason) ? row.detail : "")).join("; ") || "the same on both sides"}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mt-2 text-sm text-faded">
            {counted(rows.length, "document")}
            {found.hasNextPage ? " so far" : ""}
          </p>
          {found.hasNextPage ? (
            <button type="button" className="button-quiet mt-2" disabled={found.isFetchingNextPage} onClick={() => void found.fetchNextPage()}>
              {found.isFetchingNextPage ? "Reading…" : "Show more"}
            </button>
          ) : null}
        </div>
      ) : null}
    </section>
  );
}

function nameOf(amount: AmountOf): string {
  if (amount.tax_code) return `tax code ${amount.tax_code}`;
  if (amount.account) return `account ${amount.account}`;
  return amount.tender || (SECTIONS[amount.section ?? "both"] ?? "").toLowerCase();
}

function titleOf(amount: AmountOf): string {
  const of = nameOf(amount);
  const what = amount.reason ? `, ${reasonInWords(amount.reason, amount.detail ?? "")}` : "";
  return `Behind ${of}${what}`;
}
