import type { ChargeTaken, SpreadAnswer } from "../../api/types";
import { Amount, amountText } from "../../parts/Amount";
import { moment } from "../../parts/words";
import { Point } from "./Point";
import { SourceFrame } from "./SourceFrame";

/** What a provider took from a buyer, or gave back, and how far that has come. */
export function ChargePage({ spread }: { spread: SpreadAnswer }) {
  const charge = spread.order as unknown as ChargeTaken | null;
  return (
    <SourceFrame where="At the provider" title={`${charge?.gives_back ? "Given back" : "Charge"} ${spread.number}`}>
      {charge ? (
        <>
          <p className="text-faded">
            {moment(charge.occurred_at, spread.time_zone)}, by {charge.method || charge.tender}; {charge.state}
          </p>
          <p className="mt-3 flex flex-wrap items-baseline justify-between gap-3">
            <span>{charge.order_number ? `for order ${charge.order_number}` : "of no order that it names"}</span>
            <span className="amount font-semibold">
              <Point at="/amount" label={`Amount ${amountText(charge.amount)}`}>
                <Amount value={charge.amount} />
              </Point>{" "}
              <span className="text-xs">{charge.currency}</span>
            </span>
          </p>
        </>
      ) : (
        <p className="mt-4">This charge could not be read, so there are no figures to show.</p>
      )}
    </SourceFrame>
  );
}
