import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { browsersQuery, endBrowser, endOtherBrowsers } from "../../api/account";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";

/** The browsers one is signed in with, and ending their sessions. */
export function Browsers() {
  const queries = useQueryClient();
  const found = useQuery(browsersQuery);
  const renew = () => queries.invalidateQueries({ queryKey: browsersQuery.queryKey });
  const ending = useMutation({ mutationFn: endBrowser, onSettled: renew });
  const endingOthers = useMutation({ mutationFn: endOtherBrowsers, onSettled: renew });
  const rows = found.data?.items ?? [];
  return (
    <section aria-labelledby="browsers" className="sheet">
      <h2 id="browsers" className="mb-2 text-lg font-semibold">
        Where you are signed in
      </h2>
      {found.isPending ? <Loading what="your sessions" lines={2} /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {ending.isError ? <ProblemNote error={ending.error} /> : null}
      <ul className="divide-y divide-line">
        {rows.map((one) => (
          <li key={one.number} className="flex items-baseline justify-between gap-3 py-1.5">
            <span className="min-w-0">
              <span className="block wrap-anywhere">{one.browser || "An unnamed browser"}</span>
              <span className="text-sm text-faded">
                from {one.address}, since {new Date(one.started_at).toLocaleString("en-GB")}, last used{" "}
                {new Date(one.last_used_at).toLocaleString("en-GB")}
              </span>
            </span>
            {one.current ? (
              <span className="whitespace-nowrap">this one</span>
            ) : (
              <button
                type="button"
                className="button-quiet"
                aria-label={`End the session from ${one.address} since ${new Date(one.started_at).toLocaleString("en-GB")}`}
                disabled={ending.isPending}
                onClick={() => ending.mutate(one.number)}
              >
                End
              </button>
            )}
          </li>
        ))}
      </ul>
      {rows.length > 1 ? (
        <button
          type="button"
          className="button-quiet mt-3"
          disabled={endingOthers.isPending}
          onClick={() => endingOthers.mutate()}
        >
          End all but this one
        </button>
      ) : null}
    </section>
  );
}
