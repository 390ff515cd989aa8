import { Link } from "react-router";

import type { Crossing } from "../../api/types";
import { Amount, isZero } from "../../parts/Amount";
import { StateMark } from "../../parts/StateMark";
import { useWorkspace } from "../../parts/useWorkspace";
import { causeInWords, moment, ruleInWords } from "../../parts/words";

type Sorting = { sort: string; setSort: (sort: string) => void };

export function CrossingTable({ rows, ...sorting }: { rows: Crossing[] } & Sorting) {
  return (
    <div className="overflow-x-auto border border-line bg-page">
      <table className="w-full">
        <thead className="border-b border-ink/60">
          <tr className="*:px-3 *:py-2">
            <SortHead name="Order" by="number" {...sorting} />
            <SortHead name="Placed" by="placed" {...sorting} />
            <SortHead name="Gross" by="gross" right {...sorting} />
            <th scope="col">State</th>
            <th scope="col">In the books</th>
            {["Net", "Tax", "Gross there", "Rounding"].map((name) => (
              <th key={name} scope="col" className="text-right">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <Row key={row.id} row={row} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function SortHead({ name, by, right = false, sort, setSort }: { name: string; by: string; right?: boolean } & Sorting) {
  const up = sort === by;
  const down = sort === `-${by}`;
  return (
    <th scope="col" aria-sort={up ? "ascending" : down ? "descending" : "none"} className={right ? "text-right" : ""}>
      <button type="button" className="cursor-pointer" onClick={() => setSort(down ? by : `-${by}`)}>
        {name} <span aria-hidden="true">{up ? "↑" : down ? "↓" : "↕"}</span>
      </button>
    </th>
  );
}

function Row({ row }: { row: Crossing }) {
  const { slug } = useWorkspace();
  const made = row.in_books;
  const why = row.cause ? causeInWords(row.cause) : row.trouble || (row.left_out_by ? `by ${ruleInWords(row.left_out_by)}` : "");
  return (
    <tr className="border-b border-line *:px-3 *:py-1.5 hover:bg-wash">
      <td>
        <Link className="link" to={`/${slug}/documents/${row.id}`}>
          {row.number}
        </Link>
      </td>
      <td className="whitespace-nowrap">{row.placed_at ? moment(row.placed_at, row.time_zone) : "–"}</td>
      <td className="amount">
        <Amount value={row.gross} currency={row.currency} />
      </td>
      <td>
        <StateMark state={row.state} />
        {why ? <span className="block text-xs text-faded">{why}</span> : null}
      </td>
      <td className="whitespace-nowrap">
        {made?.number || "–"}
        {made?.further ? (
          <span className="text-faded" title={`${made.further} further, for what changed afterwards`}>
            {" "}
            +{made.further}
          </span>
        ) : null}
      </td>
      {[made?.net, made?.tax].map((value, place) => (
        <td key={place} className="amount">
          <Amount value={value} />
        </td>
      ))}
      <td className="amount">
        {/* Named where it is another: what was converted stands there in the company's own. */}
        {made && made.currency !== row.currency ? (
          <Amount value={made.gross} currency={made.currency} />
        ) : (
          <Amount value={made?.gross} />
        )}
      </td>
      <td className="amount">{isZero(made?.difference) ? "" : <Amount value={made?.difference} />}</td>
    </tr>
  );
}
