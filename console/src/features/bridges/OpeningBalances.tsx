import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { bridgeQuery, enterOpening, type OpeningGiven, setupQuery } from "../../api/bridges";
import { Labelled } from "../../parts/Labelled";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";

const OWED = [
  ["deposits", "Deposits"],
  ["gift cards", "Gift cards"],
  ["vouchers", "Vouchers"],
] as const;

/** What is owed to customers and what providers still have to pay out when the bridge takes over. */
export function OpeningBalances({ bridge }: { bridge: string }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const [given, setGiven] = useState<Record<string, string>>({});
  const set = (name: string) => (value: string) => setGiven({ ...given, [name]: value.trim() });
  const entering = useMutation({
    mutationFn: () => enterOpening(slug, bridge, balancesOf(given)),
    onSuccess: () => queries.invalidateQueries({ queryKey: bridgeQuery(slug, bridge).queryKey }),
  });
  // Posted in the background: looked at again until it stands there, or waits for a person.
  useQuery({ ...setupQuery(slug, bridge), refetchInterval: entering.isSuccess ? 1500 : false });
  if (!may("edit")) return null;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    entering.mutate();
  };
  return (
    <form aria-label="Opening balances" className="mt-3 grid max-w-2xl gap-3 sm:grid-cols-3" onSubmit={submit}>
      {OWED.map(([name, label]) => (
        <Labelled key={name} label={label} value={given[name] ?? ""} onChange={set(name)} hint="What is owed" />
      ))}
      <Labelled label="Clearing account" value={given.account ?? ""} onChange={set("account")} hint="Its code" />
      <Labelled label="On it" value={given.clearing ?? ""} onChange={set("clearing")} hint="Still to be paid out" />
      <Labelled label="Against" value={given.against ?? ""} onChange={set("against")} hint="The account it stood on" required />
      <div className="sm:col-span-3">
        <button type="submit" className="button-quiet" disabled={entering.isPending || !balancesOf(given).balances.length}>
          Post the opening balances
        </button>
        {entering.isError ? <ProblemNote error={entering.error} /> : null}
      </div>
    </form>
  );
}

function balancesOf(given: Record<string, string>): OpeningGiven {
  const owed = OWED.flatMap(([name]) => (given[name] ? [{ of: name, amount: given[name] }] : []));
  const clearing = given.clearing ? [{ of: "clearing", amount: given.clearing, account: given.account ?? "" }] : [];
  return { against: given.against ?? "", balances: [...owed, ...clearing] };
}
