import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { sessionQuery } from "../../api/session";
import { makeToken, tokensQuery, withdrawToken } from "../../api/tokens";
import { Labelled } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { day } from "../../parts/words";
import { ROLES } from "../../parts/roles";
import { ProofFields } from "./ProofFields";

const EMPTY = { name: "", role: "see", ends: "", password: "", code: "" };

/** One's own keys for programs: what each may do, where, and until when. */
export function Tokens() {
  const queries = useQueryClient();
  const found = useQuery(tokensQuery);
  const withdrawing = useMutation({
    mutationFn: withdrawToken,
    onSuccess: () => queries.invalidateQueries({ queryKey: tokensQuery.queryKey }),
  });
  return (
    <section aria-labelledby="tokens" className="sheet">
      <h2 id="tokens" className="mb-2 text-lg font-semibold">
        Your tokens
      </h2>
      {found.isPending ? <Loading what="tokens" lines={2} /> : null}
      {found.isError ? <ProblemNote error={found.error} /> : null}
      {found.data && !found.data.items.length ? <p className="text-faded">You have none.</p> : null}
      <ul className="divide-y divide-line">
        {found.data?.items.map((one) => (
          <li key={one.id} className="flex items-baseline justify-between gap-3 py-1.5">
            <span>
              {one.name}{" "}
              <span className="text-sm text-faded">
                {ROLES.find(([role]) => role === one.role)?.[1]}, {one.workspace ?? "every workspace"},{" "}
                {one.expires_at ? `until ${day(one.expires_at)}` : "without an end"},{" "}
                {one.last_used_at ? `last used ${day(one.last_used_at)}` : "never used"}
              </span>
              {one.ends_soon ? <strong className="block text-sm text-madder">Ends soon: make another before.</strong> : null}
            </span>
            <button
              type="button"
              className="button-quiet"
              aria-label={`Withdraw ${one.name}`}
              disabled={withdrawing.isPending}
              onClick={() => withdrawing.mutate(one.id)}
            >
              Withdraw
            </button>
          </li>
        ))}
      </ul>
      {withdrawing.isError ? <ProblemNote error={withdrawing.error} /> : null}
      <Make />
    </section>
  );
}

function Make() {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const session = useQuery(sessionQuery);
  const [given, setGiven] = useState(EMPTY);
  const set = (field: keyof typeof given) => (value: string) => setGiven({ ...given, [field]: value });
  const making = useMutation({
    mutationFn: () =>
      makeToken({
        email: session.data?.email ?? "",
        password: given.password,
        code: given.code,
        name: given.name,
        workspace: slug,
        role: given.role,
        expires_at: given.ends ? `${given.ends}T00:00:00Z` : null,
      }),
    onSuccess: () => {
      setGiven(EMPTY);
      void queries.invalidateQueries({ queryKey: tokensQuery.queryKey });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    making.mutate();
  };
  return (
    <form onSubmit={submit} className="mt-4 space-y-3 border-t border-line pt-4">
      <h3 className="font-medium">Make a token for this workspace</h3>
      <Labelled label="What it is for" value={given.name} required onChange={set("name")} />
      <Labelled label="May at most" value={given.role} required onChange={set("role")} options={ROLES} />
      <Labelled label="Last day" type="date" value={given.ends} onChange={set("ends")} />
      <ProofFields proof={given} set={(proof) => setGiven({ ...given, ...proof })} />
      {making.isError ? <ProblemNote error={making.error} /> : null}
      {making.data ? (
        <p role="status" className="border-l-4 border-moss pl-3">
          Keep it now, it is shown this once: <code className="break-all">{making.data.token}</code>
        </p>
      ) : null}
      <button type="submit" className="button-quiet" disabled={making.isPending}>
        Make the token
      </button>
    </form>
  );
}
