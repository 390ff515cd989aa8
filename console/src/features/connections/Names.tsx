import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useEffect, useState } from "react";
import { useSearchParams } from "react-router";

import { loadingsQuery, loadingUnderWay, loadNames, nameKindsQuery, namesQuery } from "../../api/connections";
import type { Connection, Loading as LoadingRow, NameKind } from "../../api/types";
import { Heads } from "../../parts/Heads";
import { Empty } from "../../parts/Empty";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { StateMark } from "../../parts/StateMark";
import { Turn } from "../../parts/Turn";
import { useWorkspace } from "../../parts/useWorkspace";
import { ago } from "../../parts/words";

/** An end's reference data: loaded in the background, looked through, with what changed since the last time. */
export function Names({ connection }: { connection: Connection }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const loadings = useQuery(loadingsQuery(slug, connection.slug));
  const kinds = useQuery(nameKindsQuery(slug, connection.slug));
  const asking = useMutation({
    mutationFn: () => loadNames(slug, connection.slug),
    onSuccess: () => loadings.refetch(),
  });
  const newest = newestOfEach(loadings.data?.items ?? []);
  const moving = newest.some(loadingUnderWay);
  // What ended, not that nothing moves any more: a short loading may be over before it is first looked at.
  const ended = newest
    .filter((row) => !loadingUnderWay(row))
    .map((row) => row.id)
    .join();
  useEffect(() => {
    if (ended) void queries.invalidateQueries({ queryKey: nameKindsQuery(slug, connection.slug).queryKey });
  }, [ended, queries, slug, connection.slug]);
  return (
    <section aria-labelledby="names" className="mt-6">
      <div className="mb-3 flex flex-wrap items-baseline justify-between gap-3">
        <h2 id="names" className="text-lg font-semibold">
          Reference data
        </h2>
        {may("operate") ? (
          <button type="button" className="button-quiet" disabled={moving || asking.isPending} onClick={() => asking.mutate()}>
            {moving ? "Loading…" : "Load now"}
          </button>
        ) : null}
      </div>
      {asking.isError ? <ProblemNote error={asking.error} /> : null}
      {newest.length ? <Progress rows={newest} /> : null}
      {kinds.isPending ? <Loading what="the lists" lines={3} /> : null}
      {kinds.isError ? <ProblemNote error={kinds.error} again={() => void kinds.refetch()} /> : null}
      {kinds.data && !kinds.data.length && !moving ? (
        <Empty title="Nothing was loaded yet">
          Press “Load now”: rules are checked against these lists, and products and customers are linked from them.
        </Empty>
      ) : null}
      {kinds.data?.length ? <Lists connection={connection} kinds={kinds.data} /> : null}
    </section>
  );
}

function newestOfEach(rows: LoadingRow[]): LoadingRow[] {
  const newest = new Map<string, LoadingRow>();
  for (const row of rows) if (!newest.has(row.part)) newest.set(row.part, row);
  return [...newest.values()].sort((one, other) => one.id - other.id);
}

function Progress({ rows }: { rows: LoadingRow[] }) {
  return (
    <ul className="sheet mb-4 space-y-2">
      {rows.map((row) => (
        <li key={row.part} className="grid grid-cols-[7rem_7rem_1fr] items-baseline gap-3">
          <span className="font-medium">{row.part}</span>
          <StateMark state={row.state} />
          {loadingUnderWay(row) ? (
            <span className="flex items-center gap-3">
              <progress className="w-40" aria-label={`Loading ${row.part}`} max={row.expected ?? undefined} value={row.expected ? row.read : undefined} />
              {row.read.toLocaleString("en-GB")}
              {row.expected ? ` of ${row.expected.toLocaleString("en-GB")}` : ""} {row.trouble}
            </span>
          ) : (
            <span className="text-faded">
              {row.trouble || outcome(row)} {row.ended_at ? ago(row.ended_at) : ""}
            </span>
          )}
        </li>
      ))}
    </ul>
  );
}

function outcome(row: LoadingRow): string {
  const read = `${row.read.toLocaleString("en-GB")} read`;
  if (row.first) return `${read} for the first time,`;
  return `${read}: ${row.added} added, ${row.changed} changed, ${row.gone} gone,`;
}

function Lists({ connection, kinds }: { connection: Connection; kinds: NameKind[] }) {
  const [query, setQuery] = useSearchParams();
  const kind = query.get("list") ?? kinds[0]?.kind ?? "";
  const change = query.get("change") ?? "";
  const go = (fields: Record<string, string>) =>
    setQuery(Object.entries({ list: kind, q: query.get("q") ?? "", change, ...fields }).filter(([, value]) => value) as [string, string][]);
  return (
    <div className="grid gap-5 md:grid-cols-[14rem_1fr]">
      <ul aria-label="Lists" className="border border-line bg-page py-1">
        {kinds.map((one) => (
          <li key={one.kind}>
            <button
              type="button"
              aria-current={one.kind === kind}
              className={`flex w-full cursor-pointer justify-between px-3 py-1 text-left hover:bg-wash ${one.kind === kind ? "bg-wash font-medium" : ""}`}
              onClick={() => go({ list: one.kind, q: "", change: "", cursor: "" })}
            >
              <span>{one.kind.replaceAll("-", " ")}</span>
              <span className="text-faded tabular-nums">{one.count.toLocaleString("en-GB")}</span>
            </button>
          </li>
        ))}
      </ul>
      <List connection={connection} kind={kinds.find((one) => one.kind === kind)} name={kind} query={query} go={go} />
    </div>
  );
}

interface ListProps {
  connection: Connection;
  kind: NameKind | undefined;
  name: string;
  query: URLSearchParams;
  go: (fields: Record<string, string>) => void;
}

function List({ connection, kind, name, query, go }: ListProps) {
  const { slug } = useWorkspace();
  const asked = { kind: name, q: query.get("q") ?? "", change: query.get("change") ?? "", cursor: query.get("cursor") ?? "" };
  const page = useQuery(namesQuery(slug, connection.slug, asked));
  const [typed, setTyped] = useState(asked.q);
  const search = (event: FormEvent) => {
    event.preventDefault();
    go({ q: typed.trim(), cursor: "" });
  };
  return (
    <div className="min-w-0">
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <form role="search" onSubmit={search}>
          <label className="block">
            <span className="block text-xs text-faded">Part of a code or name</span>
            <input type="search" className="field w-56" value={typed} onChange={(event) => setTyped(event.target.value)} />
          </label>
        </form>
        {(["added", "changed", "gone"] as const).map((change) =>
          kind && (kind[change] || asked.change === change) ? (
            <button
              key={change}
              type="button"
              aria-pressed={asked.change === change}
              className="button-quiet aria-pressed:border-blue aria-pressed:bg-wash"
              onClick={() => go({ change: asked.change === change ? "" : change, cursor: "" })}
            >
              {kind[change]} {change}
            </button>
          ) : null,
        )}
      </div>
      {page.isPending ? <Loading what="the list" /> : null}
      {page.isError ? <ProblemNote error={page.error} again={() => void page.refetch()} /> : null}
      {page.data && !page.data.items.length ? <Empty title="Nothing here is called so">Look for less of it.</Empty> : null}
      {page.data?.items.length ? (
        <>
          <div className="overflow-x-auto border border-line bg-page">
            <table className="w-full">
              <Heads names={["Code", "Name", "Details"]} />
              <tbody>
                {page.data.items.map((one) => (
                  <tr key={one.id} className="border-b border-line align-top *:px-3 *:py-1.5">
                    <td className="whitespace-nowrap">{one.code || one.source_id}</td>
                    <td>{one.name || "–"}</td>
                    <td className="text-sm text-faded">{detailsText(one.details)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <Turn page={page.data} go={(cursor) => go({ cursor })} />
        </>
      ) : null}
    </div>
  );
}

function detailsText(details: unknown): string {
  return Object.entries((details ?? {}) as Record<string, unknown>)
    .map(([name, value]) => `${name.replaceAll("_", " ")} ${Array.isArray(value) ? `of ${value.length}` : String(value)}`)
    .join(" · ");
}
