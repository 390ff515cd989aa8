import type { Journal, SpreadDocument } from "../../api/types";
import { Amount, amountText } from "../../parts/Amount";
import { Heads } from "../../parts/Heads";
import { StateMark } from "../../parts/StateMark";
import { day } from "../../parts/words";
import { Numbered } from "./Numbered";
import { Point } from "./Point";

/** A journal: debits and credits that balance. */
export function JournalDocument({ document, at }: { document: SpreadDocument; at: string }) {
  const journal = (document.record?.document ?? document.planned) as unknown as Journal;
  return (
    <article className="mb-8">
      <h3 className="text-xl font-semibold">
        Journal <Numbered document={document} without="(no number yet)" />
      </h3>
      <p className="text-faded">
        {day(journal.date)}: {journal.text}
      </p>
      <p className="my-4">
        <StateMark state={document.state} />
        {document.proved_at ? <span className="text-faded"> – read back and compared</span> : null}
      </p>
      <table className="w-full">
        <Heads close names={["Account", "Debit>", "Credit>"]} />
        <tbody>
          {journal.lines.map((line, place) => {
            const credit = line.base.startsWith("-");
            const amount = (
              <Point at={`${at}/lines/${place}/base`} label={`${credit ? "Credit" : "Debit"} ${amountText(line.base)}`}>
                <Amount value={line.base.replace("-", "")} />
              </Point>
            );
            return (
              <tr key={place} className="border-b border-line *:py-1.5">
                <td>
                  <Point at={`${at}/lines/${place}/account`} label={`Account ${line.account}`}>
                    {line.account}
                  </Point>{" "}
                  <span className="text-xs text-faded">{line.text}</span>
                </td>
                <td className="amount">{credit ? null : amount}</td>
                <td className="amount">{credit ? amount : null}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </article>
  );
}
