import { useQuery } from "@tanstack/react-query";

import { ruleChangesQuery } from "../../api/bridges";
import type { Rulebook, RulebookHead } from "../../api/types";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";

/** In words, what a version does otherwise than the one in force; of that one itself there is nothing to say. */
export function RuleChanges({ bridge, version, inForce }: { bridge: string; version: Rulebook; inForce: RulebookHead | undefined }) {
  const { slug } = useWorkspace();
  const found = useQuery(ruleChangesQuery(slug, bridge, version.number));
  if (version.number === inForce?.number) return null;
  return (
    <section aria-labelledby="changes" className="sheet">
      <h2 id="changes" className="mb-2 text-lg font-semibold">
        Otherwise than version {inForce?.number}, in force
      </h2>
      {found.isPending ? <Loading what="the differences" lines={3} /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {found.data && !found.data.length ? <p className="text-faded">Nothing: they say the same.</p> : null}
      <ul className="list-disc space-y-1 pl-5">
        {found.data?.map((change) => (
          <li key={change.at + change.text} className="break-words">
            {change.text}
          </li>
        ))}
      </ul>
    </section>
  );
}
