import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useSearchParams } from "react-router";

import { addCompany, changeCompany, companiesQuery, trailQuery } from "../../api/people";
import type { Company } from "../../api/types";
import { Heads } from "../../parts/Heads";
import { Labelled, PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { Turn } from "../../parts/Turn";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { LANGUAGES } from "../closing/languages";
import { EraseBuyer } from "./EraseBuyer";
import { ExchangeRates } from "./ExchangeRates";
import { Notices } from "./Notices";
import { People } from "./People";

/** The client's companies, who may do what, and who did what. */
export function Settings() {
  useTitle("Settings");
  const { may } = useWorkspace();
  return (
    <>
      <PageHead title="Settings" />
      <div className="grid items-start gap-5 lg:grid-cols-2">
        <div className="space-y-5">
          <People />
          <Notices />
          {may("own") ? <EraseBuyer /> : null}
        </div>
        <div className="space-y-5">
          <Companies />
          <ExchangeRates />
        </div>
      </div>
      <Trail />
    </>
  );
}

function Companies() {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const found = useQuery(companiesQuery(slug));
  const empty = { slug: "", name: "", country: "", currency: "", time_zone: "" };
  const [given, setGiven] = useState(empty);
  const set = (field: keyof typeof given) => (value: string) => setGiven({ ...given, [field]: value });
  const adding = useMutation({
    mutationFn: () => addCompany(slug, given),
    onSuccess: () => {
      setGiven(empty);
      void queries.invalidateQueries({ queryKey: [slug, "companies"] });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    adding.mutate();
  };
  return (
    <section aria-labelledby="companies" className="sheet">
      <h2 id="companies" className="mb-2 text-lg font-semibold">
        Companies
      </h2>
      {found.isPending ? <Loading what="companies" lines={2} /> : null}
      {found.isError ? <ProblemNote error={found.error} /> : null}
      <ul className="divide-y divide-line">
        {found.data?.items.map((one) => (
          <li key={one.slug} className="py-1.5">
            <OneCompany company={one} />
          </li>
        ))}
      </ul>
      {may("own") ? (
        <form onSubmit={submit} className="mt-4 space-y-3 border-t border-line pt-4">
          <h3 className="font-medium">Add a company</h3>
          <Labelled label="Name" value={given.name} required onChange={set("name")} />
          <Labelled label="Short name" value={given.slug} required onChange={set("slug")} hint="Such as marrowby-uk." />
          <Labelled label="Country" value={given.country} required onChange={set("country")} hint="Two letters, such as GB." />
          <Labelled label="Currency" value={given.currency} required onChange={set("currency")} hint="Three letters, such as GBP." />
          <Labelled label="Time zone" value={given.time_zone} required onChange={set("time_zone")} hint="Such as Europe/London." />
          {adding.isError ? <ProblemNote error={adding.error} /> : null}
          <button type="submit" className="button-quiet" disabled={adding.isPending}>
            Add the company
          </button>
        </form>
      ) : null}
    </section>
  );
}

/** A company, how many people close its months, and the language of its reports. */
function OneCompany({ company }: { company: Company }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const changing = useMutation({
    mutationFn: (changed: Parameters<typeof changeCompany>[2]) => changeCompany(slug, company.slug, changed),
    onSuccess: () => queries.invalidateQueries({ queryKey: [slug, "companies"] }),
  });
  // What was chosen stands there while the service keeps it.
  const shown = changing.isPending ? { ...company, ...changing.variables } : company;
  const fixed = !may("own") || changing.isPending;
  return (
    <>
      <span className="flex justify-between gap-3">
        <span>
          {company.name} <span className="text-sm text-faded">{company.slug}</span>
        </span>
        <span>
          {company.currency}, {company.time_zone}
        </span>
      </span>
      <span className="mt-1 flex flex-wrap items-center gap-x-5 gap-y-1 text-sm">
        <label className="flex min-h-6 items-center gap-2">
          <input type="checkbox" checked={shown.two_close} disabled={fixed} onChange={(event) => changing.mutate({ two_close: event.target.checked })} />
          Two people close a month
        </label>
        <label className="flex items-center gap-2">
          Reports in
          <select
            className="field"
            value={shown.report_language}
            disabled={fixed}
            onChange={(event) => changing.mutate({ report_language: event.target.value as Company["report_language"] })}
          >
            {LANGUAGES.map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        </label>
      </span>
      {changing.isError ? <ProblemNote error={changing.error} /> : null}
    </>
  );
}

function Trail() {
  const { slug } = useWorkspace();
  const [query, setQuery] = useSearchParams();
  const cursor = query.get("trail") ?? "";
  const found = useQuery(trailQuery(slug, cursor));
  return (
    <section aria-labelledby="trail" className="mt-6">
      <h2 id="trail" className="mb-2 text-lg font-semibold">
        Who did what
      </h2>
      {found.isPending ? <Loading what="the trail" /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {found.data ? (
        <>
          <div className="overflow-x-auto border border-line bg-page">
            <table className="w-full">
              <Heads names={["When", "Who", "Did", "To"]} />
              <tbody>
                {found.data.items.map((entry) => (
                  <tr key={entry.id} className="border-b border-line *:px-3 *:py-1.5">
                    <td className="whitespace-nowrap">{new Date(entry.at).toLocaleString("en-GB")}</td>
                    <td>{entry.person || "by itself"}</td>
                    <td>{entry.action.replaceAll(".", " ").replaceAll("-", " ")}</td>
                    <td>{entry.about}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <Turn page={found.data} go={(next) => setQuery(next ? { trail: next } : {})} />
        </>
      ) : null}
    </section>
  );
}
