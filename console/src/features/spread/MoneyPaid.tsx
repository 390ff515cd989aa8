import type { MoneyDocument, SpreadDocument } from "../../api/types";
import { Amount, amountText } from "../../parts/Amount";
import { StateMark } from "../../parts/StateMark";
import { capitalised, day } from "../../parts/words";
import { Numbered } from "./Numbered";
import { Point } from "./Point";
import { trimmed } from "./written";

/** Money that came in or went back, on the account it is kept on; or a balance that was given up. */
export function MoneyPaid({ document, at }: { document: SpreadDocument; at: string }) {
  const money = (document.record?.document ?? document.settled ?? document.planned) as unknown as MoneyDocument;
  return (
    <article className="mb-8">
      <h3 className="text-lg font-semibold">
        {capitalised(document.role)} <Numbered document={document} without="(no number yet)" />
      </h3>
      <p className="flex flex-wrap items-baseline justify-between gap-3">
        <span className="text-faded">
          {day(money.date)}, {money.text || "money"} on account{" "}
          <Point at={`${at}/account`} label={`Account ${money.account}`}>
            {money.account}
          </Point>
        </span>
        <span className="amount font-semibold">
          <Point at={`${at}/amount`} label={`Amount ${amountText(money.amount)}`}>
            <Amount value={money.amount} />
          </Point>{" "}
          <span className="text-xs">{money.currency}</span>
        </span>
      </p>
      <MoneyInBase money={money} at={at} />
      <p>
        <StateMark state={document.state} />
        {document.proved_at ? <span className="text-faded"> – read back and compared</span> : null}
      </p>
    </article>
  );
}

/** What money came to in the company's own currency, and what was gained or lost between its document and it. */
function MoneyInBase({ money, at }: { money: MoneyDocument; at: string }) {
  const gained = money.exchange_difference;
  if (!money.rate && !gained) return null;
  return (
    <p className="text-sm">
      {money.rate ? (
        <>
          at{" "}
          <Point at={`${at}/rate`} label={`Rate ${trimmed(money.rate)}`}>
            {trimmed(money.rate)}
          </Point>
          : <Amount value={money.base ?? null} /> <span className="text-faded">in the company’s own currency</span>
        </>
      ) : null}
      {gained ? (
        <>
          {money.rate ? ", " : null}
          <Point at={`${at}/exchange_difference`} label={`Exchange difference ${amountText(gained.amount)}`}>
            <Amount value={gained.amount.replace("-", "")} />
          </Point>{" "}
          {gained.amount.startsWith("-") ? "lost" : "gained"} on account {gained.account}
        </>
      ) : null}
    </p>
  );
}
