import { useMutation } from "@tanstack/react-query";

import { beginSignIn } from "../../api/connections";
import type { Connection } from "../../api/types";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { ago } from "../../parts/words";

/** Going to the end's own consent page; it sends the browser back to where `SignedIn` takes over. */
export function SignInThere({ connection }: { connection: Connection }) {
  const { slug } = useWorkspace();
  const beginning = useMutation({
    mutationFn: () => beginSignIn(slug, connection.slug, `${window.location.origin}/signed-in`),
    onSuccess: (begun) => window.location.assign(begun.page),
  });
  const by = connection.signed_in?.at ? connection.signed_in : null;
  return (
    <section aria-labelledby="consent" className={`sheet space-y-4 ${by ? "" : "border-l-4 border-l-madder"}`}>
      <h2 id="consent" className="text-lg font-semibold">
        Consent page
      </h2>
      <p>
        {by ? `${by.by} signed in there ${ago(by.at ?? "")}.` : "Nobody has signed in there yet."} The page belongs to the
        other end: it asks what Inkwell Bridge may do, and sends you back here.
      </p>
      {beginning.isError ? <ProblemNote error={beginning.error} /> : null}
      <button
        type="button"
        className={by ? "button-quiet" : "button"}
        disabled={beginning.isPending || beginning.isSuccess}
        onClick={() => beginning.mutate()}
      >
        {by ? "Sign in there again" : "Sign in there"}
      </button>
    </section>
  );
}
