import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { basesQuery } from "../../api/bridges";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";

/** The rules that those of the bridges build on. */
export function Bases() {
  const { slug, may } = useWorkspace();
  const found = useQuery(basesQuery(slug));
  return (
    <section aria-labelledby="bases" className="sheet mt-6">
      <h2 id="bases" className="mb-1 text-lg font-semibold">
        What their rules build on
      </h2>
      <p className="mb-3 text-sm text-faded">
        What all bridges of this client have in common is said once; a bridge’s own rules name it under based_on.
      </p>
      {found.isPending ? <Loading what="base rules" lines={2} /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {found.data && !found.data.items.length ? <p className="mb-3">Nothing yet: each bridge says all of it by itself.</p> : null}
      <ul className="mb-3 space-y-1">
        {found.data?.items.map((base) => (
          <li key={base.name}>
            <Link className="link" to={`/${slug}/base-rules/${base.name}`}>
              {base.name}
            </Link>
            , version {base.number}
          </li>
        ))}
      </ul>
      {may("edit") ? (
        <Link className="button-quiet" to={`/${slug}/base-rules`}>
          Write base rules
        </Link>
      ) : null}
    </section>
  );
}
