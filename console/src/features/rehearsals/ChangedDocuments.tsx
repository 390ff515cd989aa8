import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { bothPlansQuery, changedQuery } from "../../api/rehearsals";
import type { ChangedPlan, PlanChange, PlannedDocument, Reason, Rehearsal } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { Empty } from "../../parts/Empty";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { Turn } from "../../parts/Turn";
import { useWorkspace } from "../../parts/useWorkspace";

/** The documents that would change; each opens to both of its plans. */
export function ChangedDocuments({ rehearsal }: { rehearsal: Rehearsal }) {
  const { slug } = useWorkspace();
  const [cursor, setCursor] = useState("");
  const [open, setOpen] = useState<number | null>(null);
  const found = useQuery(changedQuery(slug, rehearsal.id, cursor));
  if (found.isPending) return <Loading what="the documents" lines={6} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  if (!found.data.items.length) {
    return (
      <Empty title="No document would change">
        {rehearsal.since === rehearsal.rulebook
          ? "It is the version in force. Change the rules, save them as a draft, and rehearse that."
          : "Every document of this period becomes the same under both versions."}
      </Empty>
    );
  }
  return (
    <section aria-labelledby="changed" className="sheet">
      <h2 id="changed" className="mb-2 text-lg font-semibold">
        Documents that would change
      </h2>
      <ul className="divide-y divide-line">
        {found.data.items.map((one) => (
          <li key={one.crossing} className="py-2">
            <button
              type="button"
              className="w-full cursor-pointer text-left"
              aria-expanded={open === one.crossing}
              onClick={() => setOpen(open === one.crossing ? null : one.crossing)}
            >
              <span className="link font-medium">{one.number}</span>
              <span className="ml-3 text-sm text-faded">{said(one)}</span>
            </button>
            {open === one.crossing ? <Both rehearsal={rehearsal.id} crossing={one.crossing} /> : null}
          </li>
        ))}
      </ul>
      <Turn page={found.data} go={setCursor} />
    </section>
  );
}

function said(one: ChangedPlan): string {
  if (one.why) return one.why;
  const kinds = [...new Set(one.changes.filter((change) => change.at !== "/outcome").map(changeInWords))];
  return kinds.slice(0, 3).join("; ") + (kinds.length > 3 ? `, and ${kinds.length - 3} more` : "");
}

/** What of a plan is another, by the last name of its pointer. */
function changeInWords(change: PlanChange): string {
  const name = (change.at.split("/").at(-1) ?? "").replaceAll("_", " ");
  const whole = /^\/documents\/[^/]+$/.test(change.at) || /^\d+$/.test(name);
  if (change.before !== null && change.after !== null) return `${name} ${change.before} becomes ${change.after}`;
  if (change.before !== null) return whole ? `no ${change.before}` : `no ${name}`;
  if (change.after !== null) return whole ? `now ${change.after}` : `${name} ${change.after}`;
  return `another ${name}`;
}

function Both({ rehearsal, crossing }: { rehearsal: number; crossing: number }) {
  const { slug } = useWorkspace();
  const found = useQuery(bothPlansQuery(slug, rehearsal, crossing));
  if (found.isPending) return <Loading what="both plans" lines={4} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  const { before, after, changes } = found.data;
  return (
    <div className="mt-3 grid gap-4 xl:grid-cols-2">
      {before ? <Side title="Before" plan={before} changes={changes} /> : null}
      <Side title="After" plan={after} changes={changes} />
    </div>
  );
}

type Plan = NonNullable<ReturnType<typeof bothPlansQuery>["queryFn"]> extends (...given: never[]) => infer Found
  ? Awaited<Found> extends { after: infer One }
    ? One
    : never
  : never;

function Side({ title, plan, changes }: { title: string; plan: Plan; changes: PlanChange[] }) {
  const documents = plan.documents as unknown as PlannedDocument[];
  const reasons = plan.reasons as unknown as Reason[];
  return (
    <section aria-label={title} className="min-w-0 border border-line p-3">
      <h3 className="font-semibold">
        {title}
        <span className="ml-2 font-sans text-sm font-normal text-faded">{OUTCOME[plan.outcome]}</span>
      </h3>
      {plan.left_out_by ? <p className="text-sm">By {plan.left_out_by}</p> : null}
      {plan.findings
        .filter((one) => one.level !== "note")
        .map((one) => (
          <p key={one.id + one.at} className="mt-1 text-sm">
            {one.text}
          </p>
        ))}
      {documents.map((document, place) => (
        <Shown key={document.external_reference} document={document} place={place} reasons={reasons} changes={changes} />
      ))}
    </section>
  );
}

const OUTCOME: Record<string, string> = { carry: "is carried", hold: "is held for a person", "left out": "is left out" };

interface ShownProps {
  document: PlannedDocument;
  place: number;
  reasons: Reason[];
  changes: PlanChange[];
}

function Shown({ document, place, reasons, changes }: ShownProps) {
  const at = `/documents/${document.external_reference.replaceAll("~", "~0").replaceAll("/", "~1")}`;
  const marked = (path: string) => (changes.some((one) => one.at === at + path || one.at === at) ? "bg-glow" : "");
  if (!document.lines) {
    return (
      <p className="mt-2 text-sm">
        {document.role} of <span className={marked("/amount")}><Amount value={document.amount} currency={document.currency} /></span> on
        account <span className={marked("/account")}>{document.account}</span>
      </p>
    );
  }
  return (
    <div className="mt-2 overflow-x-auto">
      <table className="w-full text-sm">
        <caption className="text-left text-faded">{document.role}</caption>
        <thead>
          <tr className="border-b border-line *:py-1 *:pr-2">
            <th scope="col">Line</th>
            <th scope="col">Account</th>
            <th scope="col">Code</th>
            <th scope="col" className="text-right">
              Net
            </th>
            <th scope="col" className="text-right">
              Tax
            </th>
          </tr>
        </thead>
        <tbody>
          {document.lines.map((line, number) => {
            const whole = marked(`/lines/${number}`);
            const why = reasons.find((one) => one.target === `/documents/${place}/lines/${number}/account`)?.text;
            return (
              <tr key={line.line_reference + String(number)} className={`border-b border-line align-top *:py-1 *:pr-2 ${whole}`}>
                <td>{line.text}</td>
                <td className={marked(`/lines/${number}/account`)} title={why}>
                  {line.account}
                </td>
                <td className={marked(`/lines/${number}/tax_code`)}>{line.tax_code}</td>
                <td className={`amount ${marked(`/lines/${number}/net`)}`}>
                  <Amount value={line.net} />
                </td>
                <td className={`amount ${marked(`/lines/${number}/tax`)}`}>
                  <Amount value={line.tax} />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
