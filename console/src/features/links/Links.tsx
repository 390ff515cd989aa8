import { useQuery } from "@tanstack/react-query";
import { Link, Navigate, useParams, useSearchParams } from "react-router";

import { bridgeQuery } from "../../api/bridges";
import { type LinkKind, linkCountsQuery } from "../../api/links";
import { PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { ImportTable } from "./ImportTable";
import { LinkTable } from "./LinkTable";
import { Questions } from "./Questions";

const VIEWS = [
  ["questions", "Questions"],
  ["table", "Table"],
  ["import", "Import and export"],
] as const;

/** Which product is which item, or which customer is which contact. */
export function Links() {
  const { bridge = "", kind = "" } = useParams();
  if (kind !== "products" && kind !== "customers") return <Navigate to="../.." replace />;
  return <LinksOf bridge={bridge} kind={kind} />;
}

function LinksOf({ bridge, kind }: { bridge: string; kind: LinkKind }) {
  useTitle(`Link ${kind}`);
  const { slug } = useWorkspace();
  const [query, setQuery] = useSearchParams();
  const view = query.get("view") ?? "questions";
  const found = useQuery(bridgeQuery(slug, bridge));
  const counts = useQuery(linkCountsQuery(slug, bridge, kind));
  if (found.isPending || counts.isPending) return <Loading what="the links" />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  if (counts.isError) return <ProblemNote error={counts.error} again={() => void counts.refetch()} />;
  return (
    <>
      <p className="text-sm">
        <Link className="link" to={`/${slug}/bridges/${bridge}`}>
          {found.data.name}
        </Link>
      </p>
      <PageHead title={`Link ${kind}`}>
        <p role="status" aria-label="How far the linking is" className="tabular-nums">
          {counts.data.linked.toLocaleString("en-GB")} linked · {counts.data.none.toLocaleString("en-GB")} without a
          counterpart · <strong className="font-medium">{counts.data.open.toLocaleString("en-GB")} open</strong>
        </p>
      </PageHead>
      <nav aria-label="Views" className="mb-4 flex gap-1 border-b border-line">
        {VIEWS.map(([key, name]) => (
          <button
            key={key}
            type="button"
            aria-current={view === key}
            className={`-mb-px cursor-pointer border-b-2 px-3 py-1.5 ${view === key ? "border-madder font-medium" : "border-transparent text-faded"}`}
            onClick={() => setQuery(key === "questions" ? {} : { view: key })}
          >
            {name}
          </button>
        ))}
      </nav>
      {view === "questions" ? <Questions bridge={found.data} kind={kind} open={counts.data.open} /> : null}
      {view === "table" ? <LinkTable bridge={bridge} kind={kind} /> : null}
      {view === "import" ? <ImportTable bridge={bridge} kind={kind} /> : null}
    </>
  );
}
