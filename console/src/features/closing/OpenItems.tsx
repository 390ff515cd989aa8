import { useState } from "react";
import { Link } from "react-router";

import { acceptItem, takeAcceptanceBack } from "../../api/months";
import type { SheetOf } from "../../api/tieout";
import type { Month, OpenItem } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted } from "../../parts/words";
import { behind, DIFFERING, reasonInWords, SECTIONS } from "../tieout/place";
import { NoteForm } from "./NoteForm";
import { useMonthAction } from "./useMonthAction";

// Where there is no room, documents and amounts stand below the reason.
const WIDE = "max-md:hidden";

/** Each open reason with its documents and amounts, and who accepted it; in an open month one can. */
export function OpenItems({ month, period }: { month: Month; period: SheetOf }) {
  if (!month.items.length) return null;
  return (
    <div className="overflow-x-auto">
      <table className="w-full">
        <caption className="sr-only">What is open in the month</caption>
        <thead className="border-b border-ink/60">
          <tr className="*:px-3 *:py-2 max-md:*:px-1">
            <th scope="col">Open</th>
            <th scope="col" className={`text-right ${WIDE}`}>
              Documents
            </th>
            <th scope="col" className={WIDE}>
              Comes to
            </th>
            <th scope="col">Accepted</th>
          </tr>
        </thead>
        <tbody>
          {month.items.map((item) => (
            <Row key={item.reason + item.detail} month={month} item={item} period={period} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Row({ month, item, period }: { month: Month; item: OpenItem; period: SheetOf }) {
  const { slug, may } = useWorkspace();
  const accepted = month.accepted.find((one) => one.item.fingerprint === item.fingerprint && one.stands);
  const withdrawing = useMonthAction(month, (workspace, company, name, number: number) => takeAcceptanceBack(workspace, company, name, number));
  const mayChange = month.state !== "closed" && may("operate");
  return (
    <tr className={`border-b border-line align-baseline *:px-3 *:py-1.5 max-md:*:px-1 ${accepted ? "" : "text-madder"}`}>
      <th scope="row" className={`text-base font-normal ${accepted ? "text-ink" : "text-madder"}`}>
        <Link className="underline decoration-line underline-offset-2" to={behind(slug, period, { section: sectionOf(item), reason: item.reason, detail: item.detail })}>
          {reasonInWords(item.reason, item.detail)}
        </Link>
        <span className="block text-sm md:hidden">
          {counted(item.documents, "document")}
          <Sums item={item} />
        </span>
      </th>
      <td className={`amount ${WIDE}`}>{item.documents.toLocaleString("en-GB")}</td>
      <td className={WIDE}>
        <Sums item={item} />
      </td>
      <td className="md:min-w-60">
        {accepted ? (
          <>
            <span className="block">“{accepted.note}”</span>
            <span className="text-sm text-faded">{accepted.by}</span>{" "}
            {mayChange ? (
              <button type="button" className="link text-sm" disabled={withdrawing.isPending} onClick={() => withdrawing.mutate(accepted.id)}>
                Take back<span className="sr-only">: {reasonInWords(item.reason, item.detail)}</span>
              </button>
            ) : null}
            {withdrawing.isError ? <ProblemNote error={withdrawing.error} /> : null}
          </>
        ) : mayChange ? (
          <Accept month={month} item={item} />
        ) : (
          "nobody yet"
        )}
      </td>
    </tr>
  );
}

function Sums({ item }: { item: OpenItem }) {
  return sums(item).map((one) => (
    <span key={one.of + one.currency} className="block whitespace-nowrap">
      <span className="text-sm text-faded">{one.of}</span> <Amount value={one.gross} currency={one.currency} />
    </span>
  ));
}

function Accept({ month, item }: { month: Month; item: OpenItem }) {
  const [asked, setAsked] = useState(false);
  const accepting = useMonthAction(month, (workspace, company, name, said: string) => acceptItem(workspace, company, name, item, said));
  const what = `${reasonInWords(item.reason, item.detail)}, ${counted(item.documents, "document")}`;
  if (!asked) {
    return (
      <button type="button" className="button-quiet" onClick={() => setAsked(true)}>
        Accept…<span className="sr-only"> {what}</span>
      </button>
    );
  }
  return (
    <NoteForm
      label="Why it is right as it is"
      does="Accept"
      leaves="Leave it open"
      needed
      pending={accepting.isPending}
      error={accepting.error}
      act={(note) => accepting.mutate(note)}
      close={() => setAsked(false)}
    />
  );
}

/** The part of the sheet that its documents are listed from: of what differs in the books all of it, for that may be no amount. */
function sectionOf(item: OpenItem): string {
  const whole = DIFFERING.includes(item.reason) || item.amounts.some((one) => one.table === "totals");
  return whole ? "both" : (item.amounts[0]?.section ?? "both");
}

/** What it comes to in sales and refunds; where it is of neither, what else it is of. */
function sums(item: OpenItem): { of: string; currency: string; gross: string }[] {
  const totals = item.amounts.filter((one) => one.table === "totals");
  const others = item.amounts.filter((one) => one.table !== "accounts");
  // What stands on accounts says the same once more, but where nothing else does.
  const told = [totals, others, item.amounts].find((some) => some.length) ?? [];
  return told.map((one) => ({
    of: totals.length ? (SECTIONS[one.section] ?? one.section) : one.tax_code || one.tender || one.account,
    currency: one.currency,
    gross: one.totals.gross,
  }));
}
