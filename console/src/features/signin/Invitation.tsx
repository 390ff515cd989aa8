import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";

import { acceptInvitation, invitationQuery } from "../../api/people";
import { Problem } from "../../api/http";
import { sessionQuery } from "../../api/session";
import type { InvitedTo } from "../../api/types";
import { CodeField } from "../../parts/CodeField";
import { Labelled } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";
import { ROLES } from "../../parts/roles";
import { ProviderButton } from "./ProviderButton";

/** Taking an invitation up: its secret stands behind the # of the address, where no server sees it. */
export function Invitation() {
  useTitle("Invitation");
  const secret = window.location.hash.slice(1);
  const found = useQuery(invitationQuery(secret));
  return (
    <main className="mx-auto flex min-h-screen max-w-sm flex-col justify-center p-5">
      <h1 className="mb-6 text-3xl font-semibold">Inkwell Bridge</h1>
      {found.isPending ? <Loading what="the invitation" lines={3} /> : null}
      {found.isError ? <ProblemNote error={found.error} /> : null}
      {found.data ? <Accept secret={secret} invited={found.data} /> : null}
    </main>
  );
}

function Accept({ secret, invited }: { secret: string; invited: InvitedTo }) {
  const [name, setName] = useState(invited.name);
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const session = useQuery(sessionQuery);
  const accepting = useMutation({ mutationFn: () => acceptInvitation({ secret, password, name, code }) });
  const takesCode = code !== "" || (accepting.error instanceof Problem && accepting.error.code === "code-needed");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    accepting.mutate();
  };
  const role = ROLES.find(([one]) => one === invited.role)?.[1] ?? invited.role;
  if (accepting.data)
    return (
      <p role="status" className="sheet">
        You are in {accepting.data.name} now.{" "}
        <Link className="link" to="/">
          Sign in
        </Link>
      </p>
    );
  return (
    <form onSubmit={submit} className="sheet space-y-4">
      <p>
        {invited.invited_by} invites you to work on <strong>{invited.workspace}</strong>, with the role “{role}”, as{" "}
        {invited.email}.
      </p>
      {invited.has_account ? null : <Labelled label="Your name" value={name} required onChange={setName} />}
      <Labelled
        label={invited.has_account ? "Your password" : "Choose a password"}
        type="password"
        value={password}
        required
        onChange={setPassword}
        hint={invited.has_account ? "This address has an account already." : "Twelve characters or more; no common one."}
      />
      {takesCode ? <CodeField value={code} onChange={setCode} /> : null}
      {accepting.isError ? <ProblemNote error={accepting.error} /> : null}
      <button type="submit" className="button" disabled={accepting.isPending}>
        {accepting.isPending ? "Joining…" : "Join"}
      </button>
      {session.data?.provider ? <ProviderButton name={session.data.provider} invitation={secret} /> : null}
    </form>
  );
}
