import { Link } from "react-router";

import type { Awaited, Crossing } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { Heads } from "../../parts/Heads";
import { StateMark } from "../../parts/StateMark";
import { useWorkspace } from "../../parts/useWorkspace";
import { causeInWords, day, due } from "../../parts/words";

const HEADS = ["Payout", "Paid out", "Amount>", "State", "Journal", "Still to come>", "Bridge"] as const;

/** Payouts, each with its journal and what the bank still waits for of it. */
export function PayoutTable({ payouts, awaited }: { payouts: Crossing[]; awaited: Map<number, Awaited> }) {
  return (
    <div className="overflow-x-auto border border-line bg-page">
      <table className="w-full">
        <Heads names={HEADS} />
        <tbody>
          {payouts.map((one) => (
            <Row key={one.id} payout={one} still={awaited.get(one.id)} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Row({ payout, still }: { payout: Crossing; still: Awaited | undefined }) {
  const { slug } = useWorkspace();
  const why = payout.cause ? causeInWords(payout.cause) : payout.trouble;
  return (
    <tr className="border-b border-line align-baseline *:px-3 *:py-1.5 hover:bg-wash">
      <td className="whitespace-nowrap">
        <Link className="link" to={`/${slug}/documents/${payout.id}`}>
          {payout.number}
        </Link>
      </td>
      <td className="whitespace-nowrap">{payout.placed_at ? day(payout.placed_at, payout.time_zone) : "–"}</td>
      <td className="amount">
        <Amount value={payout.gross} currency={payout.currency} />
      </td>
      <td>
        <StateMark state={payout.state} />
        {why ? <span className="block text-xs text-faded">{why}</span> : null}
      </td>
      <td className="whitespace-nowrap">{payout.in_books?.number || "–"}</td>
      <td className="amount">{still ? <StillToCome still={still} /> : null}</td>
      <td className="whitespace-nowrap text-faded">{payout.bridge}</td>
    </tr>
  );
}

function StillToCome({ still }: { still: Awaited }) {
  return (
    <>
      <Amount value={still.amount} currency={still.currency} />
      <span className={`block text-xs ${still.days_late > 0 ? "text-madder" : "text-faded"}`}>
        {due(still.due_on, still.days_late)}
      </span>
    </>
  );
}
