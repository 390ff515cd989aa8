import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";

import { release } from "../../api/crossings";
import { withQuery } from "../../api/http";
import type { Hold, Today } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { causeInWords, counted } from "../../parts/words";

/** Holds by cause with the money behind each, and ends in trouble. */
export function Needs({ holds, troubled }: { holds: Hold[]; troubled: Today["troubled"] }) {
  return (
    <section aria-labelledby="needs" className="sheet">
      <h2 id="needs" className="mb-3 text-lg font-semibold">
        What needs a person
      </h2>
      {holds.length || troubled.length ? null : <p className="text-faded">Nothing. Every document found its place.</p>}
      {troubled.map((end) => (
        <p key={end.slug} className="mb-3 border-l-4 border-madder pl-3">
          <strong className="font-medium">
            {end.name} is {end.state}.
          </strong>{" "}
          <span className="text-faded">{end.state_text}</span>
        </p>
      ))}
      <ul className="divide-y divide-line">
        {holds.map((hold) => (
          <HoldRow key={`${hold.cause} ${hold.currency}`} hold={hold} />
        ))}
      </ul>
    </section>
  );
}

function HoldRow({ hold }: { hold: Hold }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const releasing = useMutation({
    mutationFn: () => release(slug, { cause: hold.cause }),
    onSuccess: () => queries.invalidateQueries({ queryKey: [slug] }),
  });
  const documents = withQuery(`/${slug}/documents`, { state: ["held", "differs"], cause: hold.cause });
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 py-2">
      <Link className="link min-w-48 flex-1" to={documents}>
        {causeInWords(hold.cause)}
      </Link>
      <span>{counted(hold.count, "document")}</span>
      <Amount value={hold.gross} currency={hold.currency} />
      {may("operate") ? (
        <button
          type="button"
          className="button-quiet"
          disabled={releasing.isPending}
          onClick={() => releasing.mutate()}
          aria-label={`Release: ${causeInWords(hold.cause)}`}
        >
          Release
        </button>
      ) : null}
      {releasing.isError ? <ProblemNote error={releasing.error} /> : null}
    </li>
  );
}
