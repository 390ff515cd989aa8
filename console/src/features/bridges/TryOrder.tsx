import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";

import { sendOnTrial, sendOrder, tryOrder } from "../../api/bridges";
import type { PlannedDocument, Reason, Tried } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";

const OUTCOMES: Record<string, string> = {
  carry: "would be carried",
  hold: "would be held for a person",
  "left out": "would be left out",
  adopt: "would be adopted: somebody has typed it into the books",
};

export const outcomeInWords = (outcome: string) => OUTCOMES[outcome] ?? outcome;

/** One real order: what it would become, without sending; then that one sent. */
export function TryOrder({ bridge }: { bridge: string }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const [number, setNumber] = useState("");
  const trying = useMutation({ mutationFn: () => tryOrder(slug, bridge, number.trim()) });
  const sending = useMutation({
    mutationFn: (how: "posted" | "drafts") => (how === "posted" ? sendOrder : sendOnTrial)(slug, bridge, number.trim()),
    onSuccess: () => queries.invalidateQueries({ queryKey: [slug] }),
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    sending.reset();
    trying.mutate();
  };
  if (!may("operate")) return null;
  return (
    <div className="mt-2">
      <form onSubmit={submit} className="flex items-end gap-2">
        <label className="block">
          <span className="block text-xs text-faded">Number of an order</span>
          <input className="field w-40" value={number} required onChange={(event) => setNumber(event.target.value)} />
        </label>
        <button type="submit" className="button-quiet" disabled={trying.isPending}>
          {trying.isPending ? "Fetching…" : "Try it"}
        </button>
      </form>
      {trying.isError ? <ProblemNote error={trying.error} /> : null}
      {trying.data ? (
        <div className="mt-3 border border-line p-3">
          <Outcome tried={trying.data} />
          {["carry", "left out"].includes(trying.data.outcome) && !sending.data ? (
            <div className="mt-3 flex flex-wrap items-center gap-3">
              <button type="button" className="button" disabled={sending.isPending} onClick={() => sending.mutate("drafts")}>
                Send as drafts
              </button>
              {trying.data.outcome === "carry" ? (
                <button type="button" className="button-quiet" disabled={sending.isPending} onClick={() => sending.mutate("posted")}>
                  Send this one
                </button>
              ) : null}
              <p className="text-sm text-faded">Drafts count for nothing in the books, and can be taken back.</p>
            </div>
          ) : null}
          {sending.isError ? <ProblemNote error={sending.error} /> : null}
          {sending.data ? (
            <p role="status" className="mt-3">
              Sent, as run {sending.data.id}.{" "}
              <Link className="link" to={`/${slug}/documents?search=${encodeURIComponent(trying.data.number)}`}>
                Compare both pages
              </Link>
            </p>
          ) : null}
        </div>
      ) : null}
    </div>
  );
}

function Outcome({ tried }: { tried: Tried }) {
  const documents = tried.documents as unknown as PlannedDocument[];
  const reasons = tried.reasons as unknown as Reason[];
  return (
    <>
      <p className="font-medium">
        {tried.number} {outcomeInWords(tried.outcome)} by version {tried.rulebook} of the rules.
      </p>
      {tried.findings.map((finding) => (
        <p key={`${finding.id}${finding.at}`} className="mt-1 text-sm">
          {finding.text} <span className="text-faded">{finding.hint}</span>
        </p>
      ))}
      {documents.filter((one) => one.lines).map((document) => (
        <div key={document.role} className="mt-2 overflow-x-auto">
          <table className="w-full">
            <caption className="text-left text-sm text-faded">
              {document.role} of {document.date}
            </caption>
            <thead>
              <tr className="border-b border-line *:py-1 *:pr-3">
                <th scope="col">Line</th>
                <th scope="col" className="text-right">
                  Quantity
                </th>
                <th scope="col">Account</th>
                <th scope="col">Tax code</th>
                <th scope="col" className="text-right">
                  Net
                </th>
                <th scope="col" className="text-right">
                  Tax
                </th>
              </tr>
            </thead>
            <tbody>
              {(document.lines ?? []).map((line, place) => (
                <tr key={line.line_reference} className="border-b border-line align-top *:py-1 *:pr-3">
                  <td>
                    {line.text}
                    <span className="block text-xs text-faded">{whyOf(reasons, place)}</span>
                  </td>
                  <td className="amount">{Number(line.quantity).toLocaleString("en-GB", { maximumFractionDigits: 6 })}</td>
                  <td>{line.account}</td>
                  <td>{line.tax_code}</td>
                  <td className="amount">
                    <Amount value={line.net} currency={document.currency} />
                  </td>
                  <td className="amount">
                    <Amount value={line.tax} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ))}
      {documents.filter((one) => one.amount).map((money) => (
        <p key={money.external_reference} className="mt-2">
          {money.role} of <Amount value={money.amount} currency={money.currency} /> on account {money.account}
        </p>
      ))}
      {tried.open_balance ? (
        <p className="mt-2">
          Left to pay: <Amount value={tried.open_balance} />
        </p>
      ) : null}
      <p className="mt-2 text-sm text-faded">Not checked: {tried.not_checked.join("; ")}.</p>
    </>
  );
}

function whyOf(reasons: Reason[], line: number): string {
  return reasons.find((reason) => reason.target === `/documents/0/lines/${line}/net`)?.text ?? "";
}
