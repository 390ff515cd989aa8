import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { tryOrderBy } from "../../api/bridges";
import type { PlannedDocument, PlannedLine, Reason, RuleStep, Tried } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { ProblemNote } from "../../parts/Problem";
import { useSettled } from "../../parts/useSettled";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted } from "../../parts/words";
import { useOddOnes } from "./offers";
import { Steps } from "./Steps";
import { outcomeInWords } from "../bridges/TryOrder";

/** One order beside the rules: what it becomes under them as they stand here, what changed marked. */
export function Beside({ bridge, text, saved }: { bridge: string; text: string; saved: string }) {
  const { slug, may } = useWorkspace();
  const [typed, setTyped] = useState("");
  const [number, setNumber] = useState("");
  const by = (rules: string) => ({
    queryKey: [slug, "bridge", bridge, "tried", number, rules],
    queryFn: () => tryOrderBy(slug, bridge, number, rules),
    enabled: Boolean(number && rules),
    staleTime: Infinity,
    retry: false,
  });
  const now = useQuery({ ...by(useSettled(text)), placeholderData: (before: Tried | undefined) => before });
  const before = useQuery(by(saved));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    setNumber(typed.trim());
  };
  const odd = useOddOnes(bridge);
  if (!may("operate")) return null;
  return (
    <section aria-labelledby="beside" className="sheet">
      <h2 id="beside" className="mb-2 text-lg font-semibold">
        An order beside it
      </h2>
      <form onSubmit={submit} className="flex items-end gap-2">
        <label className="block min-w-0">
          <span className="block text-xs text-faded">Number of an order</span>
          <input className="field w-full" value={typed} required onChange={(event) => setTyped(event.target.value)} />
        </label>
        <button type="submit" className="button-quiet">
          Show
        </button>
      </form>
      {odd.length ? (
        <label className="mt-2 block">
          <span className="block text-xs text-faded">Or an odd one of the last rehearsal</span>
          <select
            className="field w-full"
            value={odd.some((one) => one.number === number) ? number : ""}
            onChange={(event) => {
              setTyped(event.target.value);
              setNumber(event.target.value);
            }}
          >
            <option value="">Choose</option>
            {odd.map((one) => (
              <option key={one.number} value={one.number}>
                {one.number}: {one.why} ({counted(one.orders, "order")})
              </option>
            ))}
          </select>
        </label>
      ) : null}
      {now.isLoading ? <p className="mt-2 text-faded">Fetching…</p> : null}
      {now.isError ? <ProblemNote error={now.error} /> : null}
      {now.data && !now.isError ? <Planned tried={now.data} before={before.data} /> : null}
    </section>
  );
}

function Planned({ tried, before }: { tried: Tried; before: Tried | undefined }) {
  const documents = tried.documents as unknown as PlannedDocument[];
  const reasons = tried.reasons as unknown as Reason[];
  const steps = new Map(tried.steps.map((one) => [one.target, one.steps]));
  const was = new Map(((before?.documents ?? []) as unknown as PlannedDocument[]).map((one) => [one.external_reference, one]));
  const other = before !== undefined && before.outcome !== tried.outcome;
  return (
    <div className="mt-3 text-sm" role="status">
      <p className={other ? "bg-glow" : ""}>
        {tried.number} {outcomeInWords(tried.outcome)}.
      </p>
      {tried.findings
        .filter((one) => one.level !== "note")
        .map((one) => (
          <p key={one.id + one.at} className="mt-1 text-faded">
            {one.text}
          </p>
        ))}
      {documents.map((document, place) => (
        <One key={document.external_reference} document={document} was={before ? was.get(document.external_reference) : document} reasons={reasons} steps={steps} place={place} />
      ))}
    </div>
  );
}

interface OneProps {
  document: PlannedDocument;
  was: PlannedDocument | undefined;
  reasons: Reason[];
  steps: ReadonlyMap<string, RuleStep[]>;
  place: number;
}

function One({ document, was, reasons, steps, place }: OneProps) {
  if (!document.lines) {
    return (
      <p className="mt-2">
        {document.role} of <Amount value={document.amount} currency={document.currency} /> on account{" "}
        <span className={was?.account === document.account ? "" : "bg-glow"}>{document.account}</span>
        <Steps what={`account ${document.account}`} steps={steps.get(`/documents/${place}/account`)} />
      </p>
    );
  }
  const at = `/documents/${place}`;
  return (
    <div className="mt-2">
      <p className={was?.role === document.role ? "" : "bg-glow"}>{document.role}</p>
      <Steps what={document.role} steps={steps.get(`${at}/role`)} />
      <Steps what={`terms ${document.terms}`} steps={steps.get(`${at}/terms`)} />
      <ul className="mt-1 divide-y divide-line border-y border-line">
        {document.lines.map((line, number) => {
          const same = was?.lines?.[number];
          const marked = (key: keyof PlannedLine) => (same?.[key] === line[key] ? "" : "bg-glow");
          const why = (key: string) => reasons.find((one) => one.target === `/documents/${place}/lines/${number}/${key}`)?.text;
          return (
            <li key={line.line_reference + String(number)} className="py-1">
              <span className="block">{line.text}</span>
              <span className="flex flex-wrap justify-between gap-x-3 text-faded">
                <span>
                  <span className={marked("account")} title={why("account")}>
                    {line.account}
                  </span>{" "}
                  <span className={marked("tax_code")} title={why("tax_code")}>
                    {line.tax_code}
                  </span>
                </span>
                <span>
                  <span className={marked("net")} title={why("net")}>
                    <Amount value={line.net} currency={document.currency} />
                  </span>{" "}
                  + <span className={marked("tax")} title={why("tax")}><Amount value={line.tax} /></span>
                </span>
              </span>
              <Steps what={`account ${line.account}`} steps={steps.get(`${at}/lines/${number}/account`)} />
              <Steps what={`code ${line.tax_code}`} steps={steps.get(`${at}/lines/${number}/tax_code`)} />
              <Steps what={`warehouse ${line.warehouse}`} steps={steps.get(`${at}/lines/${number}/warehouse`)} />
              {line.dimensions.map((one, which) => (
                <Steps key={one.name} what={`${one.name} ${one.value}`} steps={steps.get(`${at}/lines/${number}/dimensions/${which}/value`)} />
              ))}
            </li>
          );
        })}
      </ul>
    </div>
  );
}
