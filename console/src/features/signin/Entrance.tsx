import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link, Navigate, useSearchParams } from "react-router";

import { sessionQuery, signIn } from "../../api/session";
import type { Session } from "../../api/types";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";

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
      {session.data && !session.data.signed_in ? <SignInForm /> : null}
      {session.data?.signed_in ? <Workspaces session={session.data} /> : null}
    </main>
  );
}

function SignInForm() {
  const queries = useQueryClient();
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const entering = useMutation({
    mutationFn: signIn,
    onSuccess: (session) => queries.setQueryData(sessionQuery.queryKey, session),
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    entering.mutate({ email, password });
  };
  return (
    <form onSubmit={submit} className="sheet space-y-4">
      <label className="block">
        <span className="mb-1 block font-medium">E-mail</span>
        <input
          className="field w-full"
          type="email"
          autoComplete="username"
          required
          value={email}
          onChange={(event) => setEmail(event.target.value)}
        />
      </label>
      <label className="block">
        <span className="mb-1 block font-medium">Password</span>
        <input
          className="field w-full"
          type="password"
          autoComplete="current-password"
          required
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />
      </label>
      {entering.isError ? <ProblemNote error={entering.error} /> : null}
      <button type="submit" className="button" disabled={entering.isPending}>
        {entering.isPending ? "Signing in…" : "Sign in"}
      </button>
    </form>
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
