import type { Lacking } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { Heads } from "../../parts/Heads";
import { counted, day } from "../../parts/words";

interface Props {
  rows: Lacking[];
  /** Whether there are more than these. */
  more: boolean;
}

/** The documents that are not here, so that nothing of them can cross. */
export function LackingList({ rows, more }: Props) {
  return (
    <div className="mt-3 overflow-x-auto">
      <h3 className="mb-1 font-semibold text-madder">Lacking</h3>
      <table className="w-full">
        <Heads names={["Document", "Day", "Why", "Bridge", "Gross>"]} />
        <tbody>
          {rows.map((row) => (
            <tr key={row.id} className="border-b border-line align-baseline *:px-3 *:py-1">
              <th scope="row" className="text-base font-medium whitespace-nowrap text-ink">
                {row.number || `${counted(Math.abs(row.count), "document")} without a number`}
              </th>
              <td className="whitespace-nowrap">{day(row.date)}</td>
              <td className="text-madder">{row.reason}</td>
              <td className="text-faded">{row.bridge}</td>
              <td className="amount">
                <Amount value={row.gross} currency={row.currency} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-sm text-faded">{more ? `The first ${rows.length}; ask the command line for all.` : counted(rows.length, "entry", "entries")}</p>
    </div>
  );
}
