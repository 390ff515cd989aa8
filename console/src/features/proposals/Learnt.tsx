import type { Proposal } from "../../api/types";
import { Empty } from "../../parts/Empty";
import { counted } from "../../parts/words";

const place = (pointer: string) =>
  pointer.slice(1).split("/").map((part) => part.replaceAll("~1", "/").replaceAll("~0", "~").replaceAll("_", " ")).join(" › ");

/** Each rule with the examples for it and against it, what stays open, and the orders that the rules do not explain. */
export function Learnt({ proposal }: { proposal: Proposal }) {
  const open = proposal.rules.filter((rule) => !rule.value);
  return (
    <>
      <section aria-label="Rules" className="sheet overflow-x-auto">
        <table className="w-full">
          <caption className="mb-2 text-left font-serif text-lg font-semibold">Rules</caption>
          <thead>
            <tr className="border-b border-line text-left *:py-1 *:pr-3">
              <th scope="col">Rule</th>
              <th scope="col">Value</th>
              <th scope="col" className="text-right">
                For
              </th>
              <th scope="col" className="text-right">
                Against
              </th>
            </tr>
          </thead>
          <tbody>
            {proposal.rules
              .filter((rule) => rule.value)
              .map((rule) => (
                <tr key={rule.at} className="border-b border-line align-top *:py-1 *:pr-3">
                  <th scope="row" className="text-left text-base font-normal text-ink">
                    {place(rule.at)}
                  </th>
                  <td>
                    {rule.value}
                    {rule.note ? <span className="block text-sm text-faded">{rule.note}</span> : null}
                  </td>
                  <td className="text-right tabular-nums">{rule.supported ?? ""}</td>
                  <td className={`text-right tabular-nums ${rule.contradicted ? "text-madder" : ""}`}>{rule.contradicted || ""}</td>
                </tr>
              ))}
          </tbody>
        </table>
        {open.length ? (
          <details className="mt-3">
            <summary className="link">{counted(open.length, "rule")} open, for want of examples</summary>
            <ul className="mt-2 space-y-1">
              {open.map((rule) => (
                <li key={rule.at}>
                  {place(rule.at)}: <span className="text-faded">{rule.note}</span>
                </li>
              ))}
            </ul>
          </details>
        ) : null}
      </section>
      <Exceptions proposal={proposal} />
    </>
  );
}

function Exceptions({ proposal }: { proposal: Proposal }) {
  if (!proposal.unexplained) return <Empty title="Every order is explained">What the books hold for each is what these rules make of it.</Empty>;
  const more = proposal.unexplained - proposal.exceptions.length;
  return (
    <section aria-label="Not explained" className="sheet overflow-x-auto">
      <table className="w-full">
        <caption className="mb-2 text-left font-serif text-lg font-semibold">
          Not explained: {counted(proposal.unexplained, "order")}
        </caption>
        <thead>
          <tr className="border-b border-line text-left *:py-1 *:pr-3">
            <th scope="col">Order</th>
            <th scope="col">In the books</th>
            <th scope="col">What differs</th>
          </tr>
        </thead>
        <tbody>
          {proposal.exceptions.map((one) => (
            <tr key={one.number} className="border-b border-line align-top *:py-1 *:pr-3">
              <th scope="row" className="text-left text-base font-normal text-ink whitespace-nowrap">
                {one.number}
              </th>
              <td className="whitespace-nowrap">{one.books_number}</td>
              <td>
                {one.differs.map((said) => (
                  <span key={said} className="block">
                    {said[0]?.toUpperCase()}
                    {said.slice(1)}
                  </span>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {more > 0 ? <p className="mt-2 text-sm text-faded">{more} more are in the answer of the API.</p> : null}
    </section>
  );
}
