import type { Arrival, SpreadAnswer } from "../../api/types";
import { Amount, amountText } from "../../parts/Amount";
import { Heads } from "../../parts/Heads";
import { day } from "../../parts/words";
import { Point } from "./Point";
import { SourceFrame } from "./SourceFrame";

/** A line of the bank, and the payouts that it is. */
export function ArrivalPage({ spread }: { spread: SpreadAnswer }) {
  const arrival = spread.order as unknown as Arrival | null;
  return (
    <SourceFrame where="At the bank" title={`Line ${spread.number}`}>
      {arrival ? (
        <>
          <p className="mb-4 text-faded">
            Booked {day(arrival.booked_on)}
            {arrival.text ? `: ${arrival.text}` : ""}
          </p>
          {arrival.parts.length === 0 ? <p>What was matched to it has been taken back.</p> : <Parts arrival={arrival} />}
        </>
      ) : (
        <p className="mt-4">This line could not be read, so there are no figures to show.</p>
      )}
    </SourceFrame>
  );
}

function Parts({ arrival }: { arrival: Arrival }) {
  return (
    <table className="w-full">
      <Heads close names={["Payout", "Stood on", `${arrival.currency}>`]} />
      <tbody>
        {arrival.parts.map((one, place) => (
          <tr key={one.payout} className="border-b border-line *:py-1.5">
            <td>{one.number}</td>
            <td>{one.account}</td>
            <td className="amount">
              <Point at={`/parts/${place}/amount`} label={`Payout ${one.number}, ${amountText(one.amount)}`}>
                <Amount value={one.amount} />
              </Point>
            </td>
          </tr>
        ))}
      </tbody>
      <tfoot>
        <tr className="font-semibold *:py-2">
          <th scope="row" colSpan={2} className="text-sm font-semibold text-ink">
            {arrival.amount.startsWith("-") ? "Collected" : "Arrived"}
          </th>
          <td className="amount border-t-3 border-double border-ink/60">
            <Amount value={arrival.amount} />
          </td>
        </tr>
      </tfoot>
    </table>
  );
}
