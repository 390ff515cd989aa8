import type { AskedOfBuyer, SpreadDocument } from "../../api/types";
import { Amount, amountText } from "../../parts/Amount";
import { StateMark } from "../../parts/StateMark";
import { day } from "../../parts/words";
import { Numbered } from "./Numbered";
import { Point } from "./Point";

/** What a buyer is asked for at the provider. */
export function RequestDocument({ document, at }: { document: SpreadDocument; at: string }) {
  const asked = (document.record?.document ?? document.planned) as unknown as AskedOfBuyer;
  return (
    <article className="mb-8">
      <h3 className="text-xl font-semibold">
        Request for payment <Numbered document={document} without="(not made yet)" />
      </h3>
      <p className="flex flex-wrap items-baseline justify-between gap-3">
        <span className="text-faded">
          {asked.text}
          {asked.on_file ? (
            <>
              ,{" "}
              <Point at={`${at}/on_file`} label="Charged on file">
                charged on file
              </Point>
            </>
          ) : null}
          {asked.ends_on ? (
            <>
              ,{" "}
              <Point at={`${at}/ends_on`} label={`Until ${day(asked.ends_on)}`}>
                until {day(asked.ends_on)}
              </Point>
            </>
          ) : null}
        </span>
        <span className="amount font-semibold">
          <Point at={`${at}/amount`} label={`Amount ${amountText(asked.amount)}`}>
            <Amount value={asked.amount} />
          </Point>{" "}
          <span className="text-xs">{asked.currency}</span>
        </span>
      </p>
      {asked.withdrawn ? (
        <p>
          <Point at={`${at}/withdrawn`} label="Withdrawn">
            Withdrawn: nothing is asked for any more.
          </Point>
        </p>
      ) : null}
      <p>
        <StateMark state={document.state} />
        {document.proved_at ? <span className="text-faded"> – read back and compared</span> : null}
      </p>
    </article>
  );
}
