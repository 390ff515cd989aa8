import type { Entered, SpreadAnswer } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { Heads } from "../../parts/Heads";
import { capitalised, day } from "../../parts/words";
import { SourceFrame } from "./SourceFrame";

/** A document of the books that nobody here made: its lines on the accounts of sales. */
export function EnteredPage({ spread }: { spread: SpreadAnswer }) {
  const entered = spread.order as unknown as Entered | null;
  return (
    <SourceFrame where="In the books" title={`${capitalised(entered?.role || "entry")} ${spread.number}`}>
      {entered ? (
        <>
          <p className="mb-4 text-faded">
            {day(entered.entered_on)}
            {entered.external_reference ? `; its reference is ${entered.external_reference}` : ""}
          </p>
          <table className="w-full">
            <Heads close names={["Account", "Tax code", `${entered.currency}>`, "and tax>"]} />
            <tbody>
              {entered.lines.map((line, place) => (
                <tr key={place} className="border-b border-line *:py-1.5">
                  <td>{line.account}</td>
                  <td>{line.tax_code || "–"}</td>
                  <td className="amount">
                    <Amount value={line.net} />
                  </td>
                  <td className="amount">
                    <Amount value={line.tax} />
                  </td>
                </tr>
              ))}
            </tbody>
            <tfoot>
              <tr className="font-semibold *:py-2">
                <th scope="row" colSpan={3} className="text-sm font-semibold text-ink">
                  On accounts of sales, with tax
                </th>
                <td className="amount border-t-3 border-double border-ink/60">
                  <Amount value={spread.gross} />
                </td>
              </tr>
            </tfoot>
          </table>
        </>
      ) : (
        <p className="mt-4">It could not be read, so there are no figures to show.</p>
      )}
    </SourceFrame>
  );
}
