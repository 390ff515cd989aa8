import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { bankLinesQuery, markLines, takeBackMatch } from "../../api/bank";
import type { BankAccount, BankLine } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { Heads } from "../../parts/Heads";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { Turn } from "../../parts/Turn";
import { useWorkspace } from "../../parts/useWorkspace";
import { day } from "../../parts/words";

type Decided = "matched" | "excluded";
const DOES: Record<Decided, string> = { matched: "Take back", excluded: "Open again" };
const TITLES: Record<Decided, string> = { matched: "Matched", excluded: "Excluded" };

/** Lines that somebody, or a rule, has decided about; each can be opened again. */
export function Lines({ account, state }: { account: BankAccount; state: Decided }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const [cursor, setCursor] = useState("");
  const found = useQuery(bankLinesQuery(slug, account.slug, state, cursor));
  const opening = useMutation({
    mutationFn: (line: BankLine): Promise<unknown> =>
      state === "matched" ? takeBackMatch(slug, account.slug, line.id) : markLines(slug, account.slug, [line.id], "open"),
    onSuccess: () => queries.invalidateQueries({ queryKey: [slug, "bank"] }),
  });
  if (found.isPending) return <Loading what="lines" lines={3} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  if (found.data.items.length === 0) return null;
  return (
    <section aria-labelledby={state.replace(" ", "-")} className="sheet">
      <h2 id={state.replace(" ", "-")} className="mb-2 text-lg font-semibold">
        {TITLES[state]}
      </h2>
      {opening.isError ? <ProblemNote error={opening.error} /> : null}
      <div className="overflow-x-auto">
        <table className="w-full">
          <Heads names={["Booked on", "Amount>", "Says", state === "matched" ? "Is" : "What it is", ...(may("operate") ? ["Otherwise"] : [])]} />
          <tbody>
            {found.data.items.map((line) => (
              <tr key={line.id} className="border-b border-line align-baseline *:px-3 *:py-1.5">
                <td className="whitespace-nowrap">{day(line.booked_on)}</td>
                <td className="text-right">
                  <Amount value={line.amount} currency={line.currency} />
                </td>
                <td className="text-faded">{line.text || line.name || line.reference || "–"}</td>
                <td>
                  {line.matches.map((one) => (
                    <Link key={one.crossing} className="link mr-2" to={`/${slug}/documents/${one.crossing}`}>
                      {one.number}
                    </Link>
                  ))}
                  <span className="text-sm text-faded">{said(line)}</span>
                </td>
                {may("operate") ? (
                  <td>
                    <button
                      type="button"
                      className="link text-sm"
                      disabled={opening.isPending}
                      aria-label={`${DOES[state]} the line of ${day(line.booked_on)}, ${line.amount}`}
                      onClick={() => opening.mutate(line)}
                    >
                      {DOES[state]}
                    </button>
                  </td>
                ) : null}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Turn page={found.data} go={(next) => setCursor(next)} />
    </section>
  );
}

/** How it was decided. */
function said(line: BankLine) {
  const [match] = line.matches;
  if (!match) return [line.note, line.decided_by].filter(Boolean).join(", ");
  if (match.by === "hand") return ["by hand", match.note, match.made_by].filter(Boolean).join(", ");
  return match.by === "amount" ? "by its amount" : "by what it says";
}
