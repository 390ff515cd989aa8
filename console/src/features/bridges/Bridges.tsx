import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link, useNavigate } from "react-router";

import { bridgesQuery, layBridge } from "../../api/bridges";
import { connectionsQuery } from "../../api/connections";
import { companiesQuery } from "../../api/people";
import type { Bridge } from "../../api/types";
import { Empty } from "../../parts/Empty";
import { Labelled, PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { slugOf } from "../connections/form";
import { Bases } from "./Bases";

/** What carries from which shop to which books. */
export function Bridges() {
  useTitle("Bridges");
  const { slug, may } = useWorkspace();
  const [laying, setLaying] = useState(false);
  const found = useQuery(bridgesQuery(slug));
  return (
    <>
      <PageHead title="Bridges">
        {may("edit") && !laying ? (
          <button type="button" className="button" onClick={() => setLaying(true)}>
            Lay a bridge
          </button>
        ) : null}
      </PageHead>
      {laying ? <Lay /> : null}
      {found.isPending ? <Loading what="bridges" /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {found.data && !found.data.items.length && !laying ? (
        <Empty title="No bridge yet">Connect a shop and books first, then lay a bridge between them.</Empty>
      ) : null}
      {found.data?.items.length ? (
        <ul className="space-y-3">
          {found.data.items.map((bridge) => (
            <Row key={bridge.slug} bridge={bridge} />
          ))}
        </ul>
      ) : null}
      {found.data?.items.length ? <Bases /> : null}
    </>
  );
}

function Row({ bridge }: { bridge: Bridge }) {
  const { slug } = useWorkspace();
  const on = bridge.lanes.filter((lane) => lane.on).map((lane) => lane.kind.replaceAll("_", " "));
  return (
    <li className="sheet flex flex-wrap items-baseline justify-between gap-3">
      <div>
        <Link className="link font-medium" to={`/${slug}/bridges/${bridge.slug}`}>
          {bridge.name}
        </Link>
        <span className="block text-sm text-faded">
          {bridge.source} to {bridge.books}
        </span>
      </div>
      <span>
        {on.length ? `Carries ${on.join(" and ")}` : "Every lane is off"}
        {bridge.rulebook_in_force ? `, by version ${bridge.rulebook_in_force} of its rules` : ", without rules"}
      </span>
    </li>
  );
}

function Lay() {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const ends = useQuery(connectionsQuery(slug));
  const companies = useQuery(companiesQuery(slug));
  const [given, setGiven] = useState({ name: "", source: "", books: "", company: "" });
  const set = (field: keyof typeof given) => (value: string) => setGiven({ ...given, [field]: value });
  const laying = useMutation({
    mutationFn: () => layBridge(slug, { ...given, slug: slugOf(given.name) }),
    onSuccess: (bridge) => {
      void queries.invalidateQueries({ queryKey: [slug, "bridges"] });
      void navigate(`/${slug}/bridges/${bridge.slug}`);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    laying.mutate();
  };
  const on = (side: string) =>
    (ends.data?.items ?? []).filter((one) => one.side === side).map((one) => [one.slug, one.name] as const);
  return (
    <form onSubmit={submit} className="sheet mb-5 max-w-xl space-y-4">
      <Labelled label="Name" value={given.name} required onChange={set("name")} />
      <Labelled label="From" value={given.source} required onChange={set("source")} options={on("sales")} />
      <Labelled label="To" value={given.books} required onChange={set("books")} options={on("books")} />
      <Labelled
        label="Company"
        hint="Whose currency and time zone count."
        value={given.company}
        required
        onChange={set("company")}
        options={(companies.data?.items ?? []).map((one) => [one.slug, one.name] as const)}
      />
      {laying.isError ? <ProblemNote error={laying.error} /> : null}
      <button type="submit" className="button" disabled={laying.isPending}>
        Lay the bridge
      </button>
    </form>
  );
}
