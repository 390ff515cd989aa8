import { Link } from "react-router";

import type { KindCompleteness, SumIn } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { useWorkspace } from "../../parts/useWorkspace";
import { capitalised, counted } from "../../parts/words";

const MOST_NAMED = 12;
// In the order in which they ask for somebody.
const BECAME: Record<string, string> = {
  gone: "Gone at the sales side",
  "not fetched": "Listed and not fetched",
  fetched: "Fetched",
  "read anew": "Read anew",
  there: "In no list, and there when asked for",
};

/** One kind of document: so many listed, counted and here, and those that were not the same. */
export function KindTable({ kind }: { kind: KindCompleteness }) {
  const sides: [string, readonly SumIn[]][] = [
    ["listed", kind.listed],
    ["counted by the sales side", kind.told ?? []],
    ["here", kind.here],
  ];
  const currencies = [...new Set(sides.flatMap(([, sums]) => sums.map((one) => one.currency)))];
  return (
    <div className="mt-1">
      {currencies.length ? (
        <div className="overflow-x-auto">
          <table>
            <thead>
              <tr className="*:pr-6 *:pb-0.5 *:text-sm *:font-normal *:text-faded">
                <th scope="col" className="text-left">
                  {capitalised(kind.kind)}
                </th>
                {sides.map(([name]) => (
                  <th key={name} scope="col" className="text-right">
                    {name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {currencies.map((currency) => (
                <tr key={currency} className="align-baseline *:pr-6 *:pb-0.5">
                  <th scope="row" className="text-left text-sm font-normal text-ink">
                    {currency}
                  </th>
                  {sides.map(([name, sums]) => (
                    <td key={name} className="text-right whitespace-nowrap">
                      <Counted sum={sums.find((one) => one.currency === currency)} unknown={name !== "listed" && name !== "here" && kind.told === null} />
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : (
        <p className="text-sm text-faded">{capitalised(kind.kind)}: none is listed, and none is here.</p>
      )}
      {Object.entries(BECAME).map(([became, title]) => (
        <Named key={became} title={title} kind={kind} became={became} />
      ))}
      {kind.gaps.length ? (
        <p className="mt-1 text-sm">
          <span className="text-madder">Numbers without a document:</span>{" "}
          {kind.gaps
            .slice(0, MOST_NAMED)
            .map((gap) => gap.number)
            .join(", ")}
          {kind.gaps.length > MOST_NAMED ? ` and ${kind.gaps.length - MOST_NAMED} more` : ""}
        </p>
      ) : null}
    </div>
  );
}

function Counted({ sum, unknown }: { sum: SumIn | undefined; unknown: boolean }) {
  if (unknown) return <span className="text-sm text-faded">not told</span>;
  return (
    <>
      <span className="text-sm text-faded">{counted(sum?.count ?? 0, "document")}</span> <Amount value={sum?.gross ?? "0"} />
    </>
  );
}

function Named({ title, kind, became }: { title: string; kind: KindCompleteness; became: string }) {
  const { slug } = useWorkspace();
  const number = kind.counts.find((one) => one.became === became)?.documents ?? 0;
  if (!number) return null;
  const named = kind.documents.filter((one) => one.became === became).slice(0, MOST_NAMED);
  const open = became === "gone" || became === "not fetched";
  return (
    <p className="mt-1 text-sm">
      <span className={open ? "text-madder" : "text-faded"}>
        {title} ({number}):
      </span>{" "}
      {named.map((one, place) => (
        <span key={one.number}>
          {place ? ", " : ""}
          <Link className="link" to={`/${slug}/documents?search=${encodeURIComponent(one.number)}`}>
            {one.number}
          </Link>
        </span>
      ))}
      {number > named.length ? ` and ${number - named.length} more` : ""}
    </p>
  );
}
