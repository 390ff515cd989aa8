import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";

import { connectionOf, finishSignIn } from "../../api/connections";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";

/** Where an end's consent page sends people back to: the sign-in is finished, and on it goes to the connection. */
export function SignedIn() {
  useTitle("Signing in");
  const [given] = useSearchParams();
  const go = useNavigate();
  const sent = useRef(false);
  const state = given.get("state") ?? "";
  const where = connectionOf(state);
  const finishing = useMutation({
    mutationFn: ({ workspace, slug }: { workspace: string; slug: string }) =>
      finishSignIn(workspace, slug, { state, code: given.get("code") ?? "", error: given.get("error") ?? "" }),
    // The address holds a code: it does not stay in the browser's history.
    onSuccess: (_, { workspace, slug }) => go(`/${workspace}/connections/${slug}`, { replace: true }),
  });
  const { mutate } = finishing;
  useEffect(() => {
    if (!where || sent.current) return;
    sent.current = true;
    mutate(where);
  }, [where, mutate]);
  return (
    <main className="mx-auto max-w-2xl space-y-4 p-8">
      <h1 className="text-2xl font-semibold">Signing in</h1>
      {where ? null : <p>This address belongs to no sign-in. Begin from the connection.</p>}
      {finishing.isError ? <ProblemNote error={finishing.error} /> : null}
      {where && !finishing.isError ? <Loading what="what the other end allowed" /> : null}
      <Link className="underline" to={where ? `/${where.workspace}/connections/${where.slug}` : "/"}>
        {where ? "Back to the connection" : "To the entrance"}
      </Link>
    </main>
  );
}
