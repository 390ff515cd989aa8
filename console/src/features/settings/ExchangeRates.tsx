import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { keepRate, loadRates, ratesQuery, removeRate } from "../../api/exchangeRates";
import { companiesQuery } from "../../api/people";
import type { DailyRate, KeptRates } from "../../api/types";
import { Heads } from "../../parts/Heads";
import { Labelled } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { Turn } from "../../parts/Turn";
import { useWorkspace } from "../../parts/useWorkspace";

const EMPTY = { currency: "", day: "", rate: "", source: "" };

/** The daily rates that orders in other currencies go by: seen, entered, loaded by file. */
export function ExchangeRates() {
  const { slug, may } = useWorkspace();
  const companies = useQuery(companiesQuery(slug));
  const [chosen, setChosen] = useState("");
  const all = companies.data?.items ?? [];
  const company = all.find((one) => one.slug === chosen) ?? all[0];
  const [currency, setCurrency] = useState("");
  const [cursor, setCursor] = useState("");
  const found = useQuery(ratesQuery(slug, company?.slug ?? "", currency.length === 3 ? currency : "", cursor));
  return (
    <section aria-labelledby="rates" className="sheet">
      <h2 id="rates" className="mb-2 text-lg font-semibold">
        Exchange rates
      </h2>
      <p className="mb-3 text-sm text-faded">
        What one unit of a currency is worth in the company’s own. Rules say whether orders go by them. What was posted at a rate
        keeps it; what waits for one goes on by itself.
      </p>
      <div className="mb-3 grid gap-3 sm:grid-cols-2">
        <Labelled
          label="Company"
          value={company?.slug ?? ""}
          required
          onChange={(next) => {
            setChosen(next);
            setCursor("");
          }}
          options={all.map((one) => [one.slug, `${one.name} (${one.currency})`] as const)}
        />
        <Labelled
          label="Only currency"
          value={currency}
          onChange={(next) => {
            setCurrency(next.toUpperCase());
            setCursor("");
          }}
          hint="Three letters; all, without it."
        />
      </div>
      {found.isLoading ? <Loading what="the rates" lines={2} /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {found.data && company ? (
        <Rates rates={found.data.items} company={company.slug} own={company.currency} may={may("edit")} />
      ) : null}
      {found.data ? <Turn page={found.data} go={(next) => setCursor(next ?? "")} /> : null}
      {may("edit") && company ? <Enter company={company.slug} own={company.currency} /> : null}
    </section>
  );
}

function useChanged() {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  return () => queries.invalidateQueries({ queryKey: [slug, "exchange rates"] });
}

function Rates({ rates, company, own, may }: { rates: DailyRate[]; company: string; own: string; may: boolean }) {
  const { slug } = useWorkspace();
  const changed = useChanged();
  const removing = useMutation({ mutationFn: (rate: DailyRate) => removeRate(slug, company, rate), onSuccess: changed });
  if (rates.length === 0) return <p className="text-faded">No rates yet. Enter one below, or load a file.</p>;
  return (
    <div className="overflow-x-auto">
      {removing.isError ? <ProblemNote error={removing.error} /> : null}
      <table className="w-full">
        <Heads names={["Day", "One", `In ${own}`, "From", ...(may ? [""] : [])]} />
        <tbody>
          {rates.map((rate) => (
            <tr key={`${rate.currency} ${rate.day}`} className="border-b border-line *:px-3 *:py-1">
              <td className="whitespace-nowrap">{rate.day}</td>
              <td>{rate.currency}</td>
              <td className="amount">{rate.rate}</td>
              <td className="text-faded">{rate.source || rate.entered_by}</td>
              {may ? (
                <td>
                  <button
                    type="button"
                    className="link text-sm"
                    aria-label={`Remove the rate of ${rate.currency} on ${rate.day}`}
                    disabled={removing.isPending}
                    onClick={() => removing.mutate(rate)}
                  >
                    Remove
                  </button>
                </td>
              ) : null}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Enter({ company, own }: { company: string; own: string }) {
  const { slug } = useWorkspace();
  const changed = useChanged();
  const [given, setGiven] = useState(EMPTY);
  const [file, setFile] = useState<File | null>(null);
  const set = (field: keyof typeof EMPTY) => (value: string) => setGiven({ ...given, [field]: value });
  const entering = useMutation({
    mutationFn: () => keepRate(slug, company, { ...given, currency: given.currency.toUpperCase() }),
    onSuccess: () => {
      setGiven({ ...given, rate: "" });
      void changed();
    },
  });
  const loading = useMutation({ mutationFn: (chosen: File) => loadRates(slug, company, chosen, given.source), onSuccess: changed });
  const enter = (event: FormEvent) => {
    event.preventDefault();
    entering.mutate();
  };
  return (
    <form onSubmit={enter} className="mt-4 space-y-3 border-t border-line pt-4">
      <h3 className="font-medium">Enter a rate</h3>
      <div className="grid gap-3 sm:grid-cols-2">
        <Labelled label="Currency" value={given.currency} required onChange={set("currency")} hint="Three letters, such as EUR." />
        <Labelled label="Day" type="date" value={given.day} required onChange={set("day")} hint="It holds until there is a newer one." />
        <Labelled label="Rate" value={given.rate} required onChange={set("rate")} hint={`What one of it is in ${own}, such as 0.8550.`} />
        <Labelled label="From" value={given.source} onChange={set("source")} hint="Whose rates they are, such as a bank’s. Optional." />
      </div>
      {entering.isError ? <ProblemNote error={entering.error} /> : null}
      {entering.data ? <Kept kept={entering.data} /> : null}
      <button type="submit" className="button-quiet" disabled={entering.isPending}>
        {entering.isPending ? "Keeping…" : "Keep the rate"}
      </button>
      <div className="border-t border-line pt-3">
        <label className="block">
          <span className="mb-1 block font-medium">Load a file</span>
          <input type="file" className="field w-full" accept=".csv" onChange={(event) => setFile(event.target.files?.[0] ?? null)} />
          <span className="mt-1 block text-sm text-faded">
            Comma-separated, with the columns day, currency and rate: all of it, or nothing.
          </span>
        </label>
        {loading.isError ? <ProblemNote error={loading.error} /> : null}
        {loading.data ? <Kept kept={loading.data} /> : null}
        <button
          type="button"
          className="button-quiet mt-2"
          disabled={file === null || loading.isPending}
          onClick={() => (file ? loading.mutate(file) : undefined)}
        >
          {loading.isPending ? "Loading…" : "Load it"}
        </button>
      </div>
    </form>
  );
}

function Kept({ kept }: { kept: KeptRates }) {
  return (
    <p role="status" className="mt-2 border-l-4 border-moss pl-3 text-sm">
      {kept.added} new, {kept.corrected} corrected, {kept.unchanged} as they were.
    </p>
  );
}
