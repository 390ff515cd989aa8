import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { becameQuery } from "../../api/holds";
import type { Became } from "../../api/types";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";

/** What became of what was let go, as it goes: 8 tried: 7 carried, 1 held again, because … */
export function Followed({ title, crossings }: { title: string; crossings: number[] }) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const found = useQuery({ ...becameQuery(slug, crossings), enabled: crossings.length > 0 });
  const settled = found.data !== undefined && !found.data.states.waiting;
  useEffect(() => {
    if (settled) void queries.invalidateQueries({ queryKey: [slug, "holds"] });
  }, [queries, slug, settled]);
  if (!crossings.length) return null;
  return (
    <section aria-label="What became of them" className="sheet mb-5" aria-live="polite">
      <p className="first-letter:uppercase">
        {title}: {found.data ? inWords(found.data) : "on their way…"}
      </p>
      {found.data?.again.map((one) => (
        <p key={one.text} className="border-l-4 border-madder pl-3 text-sm">
          {one.count} held again: {one.text}
        </p>
      ))}
      {found.isError ? <ProblemNote error={found.error} /> : null}
    </section>
  );
}

/** Such as: 8 tried: 7 carried, 1 held. */
export function inWords({ states }: Pick<Became, "states">): string {
  const all = Object.values(states).reduce((sum, one) => sum + one, 0);
  const each = Object.entries(states)
    .sort(([, a], [, b]) => b - a)
    .map(([state, number]) => `${number} ${state}`);
  return `${all} tried: ${each.join(", ")}`;
}
