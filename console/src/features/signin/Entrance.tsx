import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link, Navigate, useSearchParams } from "react-router";

import { Problem } from "../../api/http";
import { sessionQuery, signIn } from "../../api/session";
import type { Session } from "../../api/types";
import { CodeField } from "../../parts/CodeField";
import { Labelled } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";
import { ProviderButton } from "./ProviderButton";

/** The first page: sign in, then choose for whom to work, where there is a choice. */
export function Entrance() {
  useTitle("Sign in");
  const session = useQuery(sessionQuery);
  return (
    <main className="mx-auto flex min-h-screen max-w-sm flex-col justify-center p-5">
      <h1 className="text-3xl font-semibold">Inkwell Bridge</h1>
      <p className="mt-1 mb-8 text-faded">Orders into the books: once, whole, and proved.</p>
      {session.isPending ? <Loading what="the session" lines={3} /> : null}
      {session.isError ? <ProblemNote error={session.error} again={() => void session.refetch()} /> : null}
      {session.data && !session.data.signed_in ? <SignInForm session={session.data} /> : null}
      {session.data?.signed_in ? <Workspaces session={session.data} /> : null}
    </main>
  );
}

/** Why somebody comes back from the provider of identities without being signed in. */
const REFUSED: Record<string, string> = {
  "openid-not-invited": "There is no account here for the address that the provider knows you by. Ask an owner to invite it.",
  "openid-refused": "The provider let nobody in, or this sign-in was begun in another browser. Begin again.",
  "openid-provider": "The provider did not answer as it should. Try again, or sign in with your password.",
  "waiting-for-ends": "The service waits for other systems just now. Try again in some seconds.",
  "invitation-ended": "This invitation is for another address, was taken up, withdrawn or has ended.",
};

function SignInForm({ session }: { session: Session }) {
  const queries = useQueryClient();
  const [query] = useSearchParams();
  const [given, setGiven] = useState({ email: "", password: "", code: "" });
  const set = (field: keyof typeof given) => (value: string) => setGiven({ ...given, [field]: value });
  const entering = useMutation({
    mutationFn: signIn,
    onSuccess: (found) => queries.setQueryData(sessionQuery.queryKey, found),
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    entering.mutate(given);
  };
  // Asked for once the password was right, and from then on.
  const codeIsNext = given.code === "" && entering.error instanceof Problem && entering.error.code === "code-needed";
  const takesCode = given.code !== "" || (entering.error instanceof Problem && entering.error.code === "code-needed");
  const refused = query.get("refused");
  return (
    <>
      {refused ? (
        <p role="alert" className="sheet mb-4 border-l-4 border-l-madder">
          {REFUSED[refused] ?? "Signing in did not work. Try again."}
        </p>
      ) : null}
      <form onSubmit={submit} className="sheet space-y-4">
        <Labelled label="E-mail" type="email" autoComplete="username" value={given.email} required onChange={set("email")} />
        <Labelled
          label="Password"
          type="password"
          autoComplete="current-password"
          value={given.password}
          required
          onChange={set("password")}
        />
        {codeIsNext ? <p role="status">The password is right. This account asks for a code besides.</p> : null}
        {takesCode ? <CodeField value={given.code} onChange={set("code")} /> : null}
        {entering.isError && !codeIsNext ? <ProblemNote error={entering.error} /> : null}
        <div className="flex flex-wrap items-baseline justify-between gap-3">
          <button type="submit" className="button" disabled={entering.isPending}>
            {entering.isPending ? "Signing in…" : "Sign in"}
          </button>
          {session.mails ? (
            <Link className="link text-sm" to="/password">
              Forgotten your password?
            </Link>
          ) : null}
        </div>
      </form>
      {session.provider ? <ProviderButton name={session.provider} /> : null}
    </>
  );
}

function Workspaces({ session }: { session: Session }) {
  const [query] = useSearchParams();
  const next = query.get("next");
  // Only a path of our own: "//" would lead to another host.
  if (next?.startsWith("/") && !next.startsWith("//")) return <Navigate to={next} replace />;
  const [only, ...more] = session.workspaces;
  if (!only) {
    return <p className="sheet">You have no role in any workspace yet. Ask an owner to give you one.</p>;
  }
  if (!more.length) return <Navigate to={`/${only.slug}/today`} replace />;
  return (
    <ul className="sheet space-y-2">
      {session.workspaces.map((one) => (
        <li key={one.slug}>
          <Link className="link" to={`/${one.slug}/today`}>
            {one.name}
          </Link>
        </li>
      ))}
    </ul>
  );
}
