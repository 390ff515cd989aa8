import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useSearchParams } from "react-router";

import { type LinkKind, linksQuery } from "../../api/links";
import { Heads } from "../../parts/Heads";
import { Empty } from "../../parts/Empty";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { StateMark } from "../../parts/StateMark";
import { Turn } from "../../parts/Turn";
import { useWorkspace } from "../../parts/useWorkspace";

/** Everything of the sales side, with where it leads. */
export function LinkTable({ bridge, kind }: { bridge: string; kind: LinkKind }) {
  const { slug } = useWorkspace();
  const [query, setQuery] = useSearchParams();
  const text = (name: string) => query.get(name) ?? "";
  const asked = { q: text("q"), state: text("state"), cursor: text("cursor") };
  const page = useQuery(linksQuery(slug, bridge, kind, asked));
  const [typed, setTyped] = useState(asked.q);
  const go = (fields: Partial<typeof asked>) => {
    const next = { view: "table", ...asked, cursor: "", ...fields };
    setQuery(Object.entries(next).filter(([, value]) => value) as [string, string][]);
  };
  const search = (event: FormEvent) => {
    event.preventDefault();
    go({ q: typed.trim() });
  };
  return (
    <>
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <form role="search" onSubmit={search}>
          <label className="block">
            <span className="block text-xs text-faded">Part of a code or name</span>
            <input type="search" className="field w-56" value={typed} onChange={(event) => setTyped(event.target.value)} />
          </label>
        </form>
        <label className="block">
          <span className="block text-xs text-faded">State</span>
          <select className="field" value={asked.state} onChange={(event) => go({ state: event.target.value })}>
            <option value="">any</option>
            <option value="linked">linked</option>
            <option value="none">without a counterpart</option>
            <option value="open">open</option>
          </select>
        </label>
      </div>
      {page.isPending ? <Loading what="the table" /> : null}
      {page.isError ? <ProblemNote error={page.error} again={() => void page.refetch()} /> : null}
      {page.data && !page.data.items.length ? (
        <Empty title="Nothing here">Load the names of both ends first, or take a filter away.</Empty>
      ) : null}
      {page.data?.items.length ? (
        <>
          <div className="overflow-x-auto border border-line bg-page">
            <table className="w-full">
              <Heads names={["Code", "Name", "State", "In the books", "By"]} />
              <tbody>
                {page.data.items.map((row) => (
                  <tr key={row.id} className="border-b border-line align-top *:px-3 *:py-1.5">
                    <td className="whitespace-nowrap">{row.code}</td>
                    <td>{row.name || "–"}</td>
                    <td>
                      <StateMark state={row.state} />
                    </td>
                    <td>
                      {row.links.map((part) => (
                        <span key={part.id} className="block">
                          {Number(part.quantity) === 1 ? "" : `${Number(part.quantity)} × `}
                          {part.code || part.id}
                        </span>
                      ))}
                    </td>
                    <td className="text-faded">{[...new Set(row.links.map((part) => part.rule))].join(", ")}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <Turn page={page.data} go={(cursor) => go({ cursor })} />
        </>
      ) : null}
    </>
  );
}
