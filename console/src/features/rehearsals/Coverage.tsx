import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { rulesQuery, writeRules } from "../../api/bridges";
import { coverageQuery, coverageTable, editRules } from "../../api/rehearsals";
import type { MetValue, Rehearsal } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { Empty } from "../../parts/Empty";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted, ruleInWords } from "../../parts/words";
import { setting } from "./setting";

/** Every value that the orders of a rehearsal hold, and the rule that maps it, or that none does. */
export function Coverage({ bridge, rehearsal }: { bridge: string; rehearsal: Rehearsal }) {
  const { slug } = useWorkspace();
  const found = useQuery(coverageQuery(slug, rehearsal.id));
  const [all, setAll] = useState(false);
  if (found.isPending) return <Loading what="what the orders hold" lines={8} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  const lacking = found.data.filter((one) => one.standing === "unmapped");
  const shown = all ? found.data : lacking;
  return (
    <section aria-labelledby="coverage" className="sheet">
      <div className="mb-2 flex flex-wrap items-baseline justify-between gap-3">
        <h2 id="coverage" className="text-lg font-semibold">
          {lacking.length ? `${counted(lacking.length, "value")} that no rule maps` : "Every value is mapped"}
        </h2>
        <div className="flex flex-wrap gap-3">
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={all} onChange={(event) => setAll(event.target.checked)} />
            Show what is mapped too
          </label>
          <a className="link" href={coverageTable(slug, rehearsal.id)} download>
            As CSV
          </a>
        </div>
      </div>
      {Object.entries(rehearsal.further).map(([aspect, count]) => (
        <p key={aspect} className="mb-2 text-sm text-faded">
          Another {aspect} was met {counted(count, "more time")}; only the first 2,000 are listed.
        </p>
      ))}
      {shown.length ? (
        <Values values={shown} bridge={bridge} rulebook={rehearsal.rulebook} />
      ) : (
        <Empty title={rehearsal.done ? "Nothing waits for a rule" : "No orders in this period"}>
          {rehearsal.done ? "All that the orders of this period hold has its place." : "Choose other days."}
        </Empty>
      )}
    </section>
  );
}

function Values({ values, bridge, rulebook }: { values: MetValue[]; bridge: string; rulebook: number }) {
  return (
    <div className="overflow-x-auto">
      <table className="w-full">
        <thead>
          <tr className="border-b border-line *:py-1 *:pr-3">
            <th scope="col">What</th>
            <th scope="col">Value</th>
            <th scope="col" className="text-right">
              Orders
            </th>
            <th scope="col" className="text-right">
              Amount
            </th>
            <th scope="col">By which rule</th>
          </tr>
        </thead>
        <tbody>
          {values.map((one) => (
            <tr key={one.aspect + one.value} className="border-b border-line align-top *:py-1.5 *:pr-3">
              <td className="text-faded">{one.aspect}</td>
              <th scope="row" className="text-[15px] break-words text-ink">
                {one.value}
              </th>
              <td className="amount">{one.orders.toLocaleString("en-GB")}</td>
              <td className="amount">
                {Object.entries(one.amounts).map(([currency, amount]) => (
                  <span key={currency} className="block">
                    <Amount value={amount} currency={currency} />
                  </span>
                ))}
              </td>
              <td>
                <By one={one} bridge={bridge} rulebook={rulebook} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function By({ one, bridge, rulebook }: { one: MetValue; bridge: string; rulebook: number }) {
  if (one.standing === "unmapped" || one.suggestion) {
    return (
      <>
        {one.standing === "unmapped" ? (
          <p>
            <span className="text-madder">No rule</span> on {counted(one.unmapped, "order")}, such as {one.examples.join(", ")}
          </p>
        ) : (
          <p className="text-faded">No rule asks for it</p>
        )}
        {one.suggestion ? <TakeOver suggestion={one.suggestion} bridge={bridge} rulebook={rulebook} /> : null}
      </>
    );
  }
  if (!one.rules.length) return <span className="text-faded">{one.standing === "left out" ? "left out" : "no rule asks for it"}</span>;
  return (
    <ul>
      {one.rules.map((use) => (
        <li key={use.rule + use.gave}>
          {ruleInWords(use.rule)}
          {use.gave ? (
            <>
              {" "}
              gives <strong>{use.gave}</strong>
            </>
          ) : null}
          {one.rules.length > 1 ? <span className="text-faded"> ({use.orders})</span> : null}
        </li>
      ))}
    </ul>
  );
}

interface TakeOverProps {
  suggestion: NonNullable<MetValue["suggestion"]>;
  bridge: string;
  rulebook: number;
}

/** A suggestion taken over: into a new draft of the rules, which is looked at and published like any other. */
function TakeOver({ suggestion, bridge, rulebook }: TakeOverProps) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const taking = useMutation({
    mutationFn: async () => {
      const version = await queries.fetchQuery(rulesQuery(slug, bridge, rulebook));
      const { values } = await editRules(slug, bridge, version.text, []);
      const edited = await editRules(slug, bridge, version.text, [setting(values, suggestion.at, suggestion.value)]);
      return writeRules(slug, bridge, edited.text);
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: [slug, "bridge", bridge] }),
  });
  if (taking.data) {
    return (
      <p role="status" className="mt-1 border-l-4 border-moss pl-2 text-sm">
        Version {taking.data.number} maps it, as a draft.{" "}
        <Link className="link" to={`/${slug}/bridges/${bridge}/rules`}>
          Look at it
        </Link>
      </p>
    );
  }
  return (
    <div className="mt-1 text-sm">
      {may("edit") ? (
        <button type="button" className="button-quiet" disabled={taking.isPending} onClick={() => taking.mutate()}>
          Map to {suggestion.value}
        </button>
      ) : (
        <strong>{suggestion.value}</strong>
      )}
      <span className="ml-2 text-faded">{suggestion.why}</span>
      {taking.isError ? <ProblemNote error={taking.error} /> : null}
    </div>
  );
}
