import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";

import { crossingsQuery } from "../../api/crossings";
import { Empty } from "../../parts/Empty";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { Turn } from "../../parts/Turn";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { CrossingTable } from "./CrossingTable";
import { FilterBar } from "./FilterBar";
import { active, asked, changed, type Filters, readFilters, writeFilters } from "./filters";

/** All source documents and what became of them. */
export function Documents() {
  useTitle("Documents");
  const { slug } = useWorkspace();
  const [query, setQuery] = useSearchParams();
  const filters = readFilters(query);
  const change = (what: Partial<Filters>) => setQuery(writeFilters(changed(filters, what)));
  const page = useQuery(crossingsQuery(slug, asked(filters)));
  return (
    <>
      <h1 className="mb-4 text-2xl font-semibold">Documents</h1>
      <FilterBar filters={filters} change={change} />
      {page.isPending ? <Loading what="documents" lines={14} /> : null}
      {page.isError ? <ProblemNote error={page.error} again={() => void page.refetch()} /> : null}
      {page.data && !page.data.items.length ? <NoDocuments filtered={active(filters)} /> : null}
      {page.data?.items.length ? (
        <>
          <CrossingTable rows={page.data.items} sort={filters.sort} setSort={(sort) => change({ sort })} />
          <Turn page={page.data} go={(cursor) => change({ cursor })} />
        </>
      ) : null}
    </>
  );
}

function NoDocuments({ filtered }: { filtered: boolean }) {
  return filtered ? (
    <Empty title="No document fits these filters">Take one away, or show all.</Empty>
  ) : (
    <Empty title="No documents yet">
      Nothing was read from the shop so far. Go to Today and press “Run now”, or use <code>inkwell run</code>.
    </Empty>
  );
}
