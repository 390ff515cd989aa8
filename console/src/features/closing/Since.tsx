import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { changesQuery } from "../../api/months";
import type { Month } from "../../api/types";
import { Amount, amountText } from "../../parts/Amount";
import { Heads } from "../../parts/Heads";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted, day, KINDS } from "../../parts/words";
import { SECTIONS } from "../tieout/place";

// Where there is no room the amounts stay.
const WIDE = "max-md:hidden";

/** What changed in a closed month, beside its frozen figures. */
export function Since({ month }: { month: Month }) {
  const [open, setOpen] = useState(false);
  if (!month.closing) return null;
  const changed = month.closing.changed;
  if (!changed && !month.differing_since.length) return <p className="text-moss">Nothing has changed in it since.</p>;
  return (
    <div>
      <h3 className="font-semibold text-madder">Since it was closed {changed ? `${counted(changed, "document")} changed` : "documents differ in the books"}</h3>
      {month.differing_since.map((one) => (
        <p key={one.reason} className="text-madder">
          {counted(one.documents, "document")} more: {one.reason}.
        </p>
      ))}
      {month.since.length ? (
        <div className="overflow-x-auto">
          <table className="w-full">
            <caption className="text-left text-sm text-faded">By what each side is otherwise now; the closing stands as it was</caption>
            <thead className="border-b border-ink/60">
              <tr className="*:px-3 *:py-2 max-md:*:px-1">
                <th scope="col">Section</th>
                <th scope="col" className={`text-right ${WIDE}`}>
                  Sales side documents
                </th>
                <th scope="col" className="text-right">
                  Sales side
                </th>
                <th scope="col" className={`text-right ${WIDE}`}>
                  Books documents
                </th>
                <th scope="col" className="text-right">
                  The books
                </th>
              </tr>
            </thead>
            <tbody>
              {month.since.map((one) => (
                <tr key={one.section + one.currency} className="border-b border-line *:px-3 *:py-1 max-md:*:px-1">
                  <th scope="row" className="text-base font-normal text-ink">
                    {SECTIONS[one.section] ?? one.section} <span className="text-sm text-faded">{one.currency}</span>
                  </th>
                  <td className={`amount ${WIDE}`}>{amountText(String(one.source.count))}</td>
                  <td className="amount">
                    <Amount value={one.source.gross} />
                  </td>
                  <td className={`amount ${WIDE}`}>{amountText(String(one.books.count))}</td>
                  <td className="amount">
                    <Amount value={one.books.gross} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : null}
      {changed && !open ? (
        <button type="button" className="button-quiet mt-2" onClick={() => setOpen(true)}>
          Which documents
        </button>
      ) : null}
      {open ? <Changed month={month} /> : null}
    </div>
  );
}

function Changed({ month }: { month: Month }) {
  const { slug } = useWorkspace();
  const found = useInfiniteQuery(changesQuery(slug, month.company, month.month));
  if (found.isPending) return <Loading what="the documents" lines={3} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  const rows = found.data.pages.flatMap((page) => page.documents);
  return (
    <div className="mt-2 overflow-x-auto">
      <table className="w-full">
        <Heads names={["Document", "Since", "Sales side>", "The books>"]} />
        <tbody>
          {rows.map((row) => (
            <tr key={row.id + row.currency} className="border-b border-line *:px-3 *:py-1">
              <th scope="row" className="text-base font-medium text-ink">
                <Link className="link" to={`/${slug}/documents/${row.id}`}>
                  {row.number}
                </Link>{" "}
                <span className="text-xs font-normal text-faded">{KINDS[row.kind] || row.kind}</span>
              </th>
              <td className="whitespace-nowrap">{day(row.since)}</td>
              <td className="amount">
                <Amount value={row.source.gross} />
              </td>
              <td className="amount">
                <Amount value={row.books.gross} currency={row.currency} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {found.hasNextPage ? (
        <button type="button" className="button-quiet mt-2" disabled={found.isFetchingNextPage} onClick={() => void found.fetchNextPage()}>
          {found.isFetchingNextPage ? "Reading…" : "Show more"}
        </button>
      ) : null}
    </div>
  );
}
