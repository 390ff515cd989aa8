import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";

import { release } from "../../api/crossings";
import { withQuery } from "../../api/http";
import type { Hold, Today } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { causeInWords, counted } from "../../parts/words";

const STATES: Record<string, string> = {
  limited: "lacking rights",
  "sign-in": "waiting for somebody to sign in",
  expiring: "about to lose its key",
  "other company": "another company’s",
};

/** Holds by cause with the money behind each, and ends in trouble. */
export function Needs({ holds, troubled }: { holds: Hold[]; troubled: Today["troubled"] }) {
  const { slug } = useWorkspace();
  return (
    <section aria-labelledby="needs" className="sheet">
      <h2 id="needs" className="mb-3 text-lg font-semibold">
        What needs a person
      </h2>
      {holds.length || troubled.length ? null : <p className="text-faded">Nothing. Every document found its place.</p>}
      {troubled.map((end) => (
        <p key={end.slug} className="mb-3 border-l-4 border-madder pl-3">
          <strong className="font-medium">
            <Link className="link" to={`/${slug}/connections/${end.slug}`}>
              {end.name}
            </Link>{" "}
            is {STATES[end.state] ?? end.state}.
          </strong>{" "}
          <span className="text-faded">{end.state_text}</span>
        </p>
      ))}
      <ul className="divide-y divide-line">
        {byCause(holds).map(([cause, group]) => (
          <HoldRow key={cause} cause={cause} holds={group} />
        ))}
      </ul>
    </section>
  );
}

/** One row a cause: what is released is released by its cause, in whatever currency. */
function byCause(holds: Hold[]): [string, Hold[]][] {
  const groups = new Map<string, Hold[]>();
  for (const hold of holds) groups.set(hold.cause, [...(groups.get(hold.cause) ?? []), hold]);
  return [...groups];
}

function HoldRow({ cause, holds }: { cause: string; holds: Hold[] }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const releasing = useMutation({
    mutationFn: () => release(slug, { cause }),
    onSuccess: () => queries.invalidateQueries({ queryKey: [slug] }),
  });
  const total = holds.reduce((sum, hold) => sum + hold.count, 0);
  const place = withQuery(`/${slug}/holds`, { cause });
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 py-2">
      <Link className="link min-w-48 flex-1" to={place}>
        {causeInWords(cause)}
      </Link>
      <span>{counted(total, "document")}</span>
      <span className="flex flex-col items-end">
        {holds
          .filter((hold) => hold.gross !== null)
          .map((hold) => (
            <Amount key={hold.currency} value={hold.gross} currency={hold.currency} />
          ))}
      </span>
      {may("operate") ? (
        <button
          type="button"
          className="button-quiet"
          disabled={releasing.isPending}
          onClick={() => releasing.mutate()}
          aria-label={`Release: ${causeInWords(cause)}`}
        >
          Release
        </button>
      ) : null}
      {releasing.isError ? <ProblemNote error={releasing.error} /> : null}
    </li>
  );
}
