import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";

import { askForReset, choosePassword } from "../../api/account";
import { Labelled } from "../../parts/Labelled";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";

/** A forgotten password: asking for a link, and choosing another where one came by it (its secret stands behind the #). */
export function ForgottenPassword() {
  useTitle("Forgotten password");
  const secret = window.location.hash.slice(1);
  return (
    <main className="mx-auto flex min-h-screen max-w-sm flex-col justify-center p-5">
      <h1 className="mb-6 text-3xl font-semibold">Inkwell Bridge</h1>
      {secret ? <Choose secret={secret} /> : <Ask />}
    </main>
  );
}

function Ask() {
  const [email, setEmail] = useState("");
  const asking = useMutation({ mutationFn: () => askForReset(email) });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    asking.mutate();
  };
  if (asking.isSuccess)
    return (
      <p role="status" className="sheet">
        If {email} has an account, a link is on its way. It works once, for an hour.
      </p>
    );
  return (
    <form onSubmit={submit} className="sheet space-y-4">
      <p>We mail you a link by which you choose another password.</p>
      <Labelled label="E-mail" type="email" autoComplete="username" value={email} required onChange={setEmail} />
      {asking.isError ? <ProblemNote error={asking.error} /> : null}
      <button type="submit" className="button" disabled={asking.isPending}>
        Send the link
      </button>
    </form>
  );
}

function Choose({ secret }: { secret: string }) {
  const [password, setPassword] = useState("");
  const choosing = useMutation({ mutationFn: () => choosePassword(secret, password) });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    choosing.mutate();
  };
  if (choosing.isSuccess)
    return (
      <p role="status" className="sheet">
        Your password is chosen.{" "}
        <Link className="link" to="/">
          Sign in
        </Link>
      </p>
    );
  return (
    <form onSubmit={submit} className="sheet space-y-4">
      <Labelled
        label="The new password"
        type="password"
        value={password}
        required
        hint="Twelve characters or more; no common one. Every browser has to sign in anew."
        onChange={setPassword}
      />
      {choosing.isError ? <ProblemNote error={choosing.error} /> : null}
      <button type="submit" className="button" disabled={choosing.isPending}>
        Choose it
      </button>
    </form>
  );
}
