import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { changePassword } from "../../api/account";
import { Labelled } from "../../parts/Labelled";
import { ProblemNote } from "../../parts/Problem";
import { ProofFields } from "./ProofFields";

const EMPTY = { password: "", code: "", new_password: "", withdraw_tokens: false };

/** Changing one's password; every other browser has to sign in anew. */
export function Password() {
  const queries = useQueryClient();
  const [given, setGiven] = useState(EMPTY);
  const changing = useMutation({
    mutationFn: () => changePassword(given),
    onSuccess: () => {
      setGiven(EMPTY);
      void queries.invalidateQueries({ queryKey: ["account"] });
      void queries.invalidateQueries({ queryKey: ["tokens"] });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    changing.mutate();
  };
  return (
    <section aria-labelledby="password" className="sheet">
      <h2 id="password" className="mb-2 text-lg font-semibold">
        Password
      </h2>
      <form onSubmit={submit} className="space-y-3">
        <ProofFields proof={given} set={(proof) => setGiven({ ...given, ...proof })} />
        <Labelled
          label="The new password"
          type="password"
          value={given.new_password}
          required
          hint="Twelve characters or more; no common one. Every other browser has to sign in anew."
          onChange={(value) => setGiven({ ...given, new_password: value })}
        />
        <label className="flex items-baseline gap-2">
          <input
            type="checkbox"
            checked={given.withdraw_tokens}
            onChange={(event) => setGiven({ ...given, withdraw_tokens: event.target.checked })}
          />
          Withdraw my tokens too
        </label>
        {changing.isError ? <ProblemNote error={changing.error} /> : null}
        {changing.isSuccess ? (
          <p role="status" className="border-l-4 border-moss pl-3">
            Your password is changed.
          </p>
        ) : null}
        <button type="submit" className="button-quiet" disabled={changing.isPending}>
          Change the password
        </button>
      </form>
    </section>
  );
}
