import { Link } from "react-router";

import type { KindCompleteness, SumIn } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { useWorkspace } from "../../parts/useWorkspace";
import { capitalised, counted } from "../../parts/words";

/** So many of each are named; more are on the command line. */
export const MOST_NAMED = 12;
// In the order in which they ask for somebody.
const BECAME: Record<string, string> = {
  gone: "Gone at the sales side",
  "not fetched": "Listed and not fetched",
  fetched: "Fetched",
  "read anew": "Read anew",
  there: "In no list, and there when asked for",
};

const NARROW = "max-md:block max-md:text-left";

/** So many documents listed, counted and here, kind by kind and currency by currency. */
export function KindTable({ kinds, name }: { kinds: readonly KindCompleteness[]; name: string }) {
  const rows = kinds.flatMap((kind) => currenciesOf(kind).map((currency) => ({ kind, currency })));
  if (!rows.length) return <p className="text-sm">Nothing is listed, and nothing is here.</p>;
  return (
    <table className="mt-1 max-md:block">
      <caption className="sr-only">Documents of {name}: listed, counted by the sales side, and here</caption>
      <thead className="max-md:sr-only">
        <tr className="*:pr-8 *:pb-0.5 *:text-right *:text-sm *:font-normal *:text-faded">
          <td />
          <th scope="col">Listed</th>
          <th scope="col">Counted by the sales side</th>
          <th scope="col">Here</th>
        </tr>
      </thead>
      <tbody className="max-md:block">
        {rows.map(({ kind, currency }) => (
          <tr key={kind.kind + currency} className="align-baseline *:pb-0.5 max-md:block max-md:pb-2 md:*:pr-8">
            <th scope="row" className="text-left text-sm font-normal whitespace-nowrap text-ink max-md:block">
              {capitalised(kind.kind)}, {currency}
            </th>
            <Side name="Listed" sums={kind.listed} currency={currency} />
            {kind.told ? <Side name="Counted" sums={kind.told} currency={currency} /> : <td className={`text-right text-sm text-faded ${NARROW}`}>does not count</td>}
            <Side name="Here" sums={kind.here} currency={currency} />
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Side({ name, sums, currency }: { name: string; sums: readonly SumIn[]; currency: string }) {
  const sum = sums.find((one) => one.currency === currency);
  return (
    <td className={`text-right whitespace-nowrap ${NARROW}`}>
      <span className="text-sm text-faded md:hidden">{name} </span>
      <span className="text-sm text-faded">{counted(sum?.count ?? 0, "document")}</span> <Amount value={sum?.gross ?? "0"} />
    </td>
  );
}

const currenciesOf = (kind: KindCompleteness) => [...new Set([...kind.listed, ...(kind.told ?? []), ...kind.here].map((one) => one.currency))].sort();

/** The documents of a kind that were not the same on both sides, and numbers of which there is no document. */
export function NotTheSame({ kind }: { kind: KindCompleteness }) {
  return (
    <>
      {Object.entries(BECAME).map(([became, title]) => (
        <Named key={became} title={title} kind={kind} became={became} />
      ))}
      {kind.counted_otherwise.map((one) => (
        <p key={one.currency} className="mt-1 text-sm text-madder">
          {capitalised(kind.kind)} counted and not listed: {counted(one.count, "document")} <Amount value={one.gross} currency={one.currency} />
        </p>
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
