import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { rehearsalsQuery } from "../../api/rehearsals";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted, day } from "../../parts/words";

/** What the newest rehearsal of a draft came to, beside what it changes in words. */
export function Rehearsed({ bridge, number }: { bridge: string; number: number }) {
  const { slug } = useWorkspace();
  const past = useQuery(rehearsalsQuery(slug, bridge));
  const newest = past.data?.items.find((one) => one.rulebook === number && one.state === "ended" && one.since !== null);
  return (
    <section aria-labelledby="rehearsed" className="sheet">
      <h2 id="rehearsed" className="mb-2 text-lg font-semibold">
        On past documents
      </h2>
      {newest ? (
        <p>
          Of {counted(newest.done, "document")} of {day(newest.first)} to {day(newest.last)}{" "}
          <strong>{newest.changed ? counted(newest.changed, "document") : "none"}</strong> would change.
        </p>
      ) : (
        <p className="text-faded">Not rehearsed yet.</p>
      )}
      <Link className="link mt-1 inline-block" to={`/${slug}/bridges/${bridge}/rehearsal${newest ? `?of=${newest.id}` : ""}`}>
        {newest ? "See which" : "Rehearse it"}
      </Link>
    </section>
  );
}
