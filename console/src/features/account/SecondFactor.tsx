import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import {
  beginSecondFactor,
  confirmSecondFactor,
  renewRecoveryCodes,
  secondFactorQuery,
  turnOffSecondFactor,
} from "../../api/account";
import type { OfferedSecret } from "../../api/types";
import { Labelled } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { counted, day } from "../../parts/words";
import { ProofFields } from "./ProofFields";

const EMPTY = { password: "", code: "" };

/** Signing in by a code of an authenticator app besides the password. */
export function SecondFactor() {
  const found = useQuery(secondFactorQuery);
  const [codes, setCodes] = useState<string[]>([]);
  return (
    <section aria-labelledby="second-factor" className="sheet">
      <h2 id="second-factor" className="mb-2 text-lg font-semibold">
        Second factor
      </h2>
      {found.isPending ? <Loading what="the second factor" lines={2} /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {codes.length ? <RecoveryCodes codes={codes} /> : null}
      {found.data?.on ? (
        <>
          <p className="mb-3">
            On{found.data.since ? ` since ${day(found.data.since)}` : ""}: signing in takes a code of your authenticator app.{" "}
            {counted(found.data.recovery_codes, "recovery code")} left.
          </p>
          <TurnOff show={setCodes} />
        </>
      ) : null}
      {found.data && !found.data.on ? <TurnOn show={setCodes} /> : null}
    </section>
  );
}

function RecoveryCodes({ codes }: { codes: string[] }) {
  return (
    <div role="status" className="mb-4 border-l-4 border-moss pl-3">
      <p>Keep these recovery codes now, they are shown this once. Each lets you in once without your app.</p>
      <ul className="mt-2 grid grid-cols-1 gap-x-4 font-mono text-sm sm:grid-cols-2">
        {codes.map((code) => (
          <li key={code}>{code}</li>
        ))}
      </ul>
    </div>
  );
}

function TurnOn({ show }: { show: (codes: string[]) => void }) {
  const [proof, setProof] = useState(EMPTY);
  const beginning = useMutation({ mutationFn: () => beginSecondFactor(proof), onSuccess: () => setProof(EMPTY) });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    beginning.mutate();
  };
  if (beginning.data) return <Confirm offered={beginning.data} show={show} />;
  return (
    <form onSubmit={submit} className="space-y-3">
      <p className="text-sm text-faded">
        Off. With it, whoever knows your password does not get in without the code that your authenticator app shows.
      </p>
      <ProofFields proof={proof} set={setProof} />
      {beginning.isError ? <ProblemNote error={beginning.error} /> : null}
      <button type="submit" className="button-quiet" disabled={beginning.isPending}>
        Set it up
      </button>
    </form>
  );
}

function Confirm({ offered, show }: { offered: OfferedSecret; show: (codes: string[]) => void }) {
  const queries = useQueryClient();
  const [code, setCode] = useState("");
  const confirming = useMutation({
    mutationFn: () => confirmSecondFactor(code),
    onSuccess: (answer) => {
      show(answer.recovery_codes);
      void queries.invalidateQueries({ queryKey: secondFactorQuery.queryKey });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    confirming.mutate();
  };
  return (
    <form onSubmit={submit} className="space-y-3">
      <p>Scan this with your authenticator app, or type the secret into it. Then enter the code that it shows.</p>
      <img src={offered.picture} alt="The secret for your authenticator app, to scan" className="max-w-full bg-white" />
      <p>
        <code className="break-all">{offered.secret}</code>
      </p>
      <Labelled label="Code" autoComplete="one-time-code" value={code} required onChange={setCode} hint="Six digits." />
      {confirming.isError ? <ProblemNote error={confirming.error} /> : null}
      <button type="submit" className="button" disabled={confirming.isPending}>
        Turn it on
      </button>
    </form>
  );
}

function TurnOff({ show }: { show: (codes: string[]) => void }) {
  const queries = useQueryClient();
  const [proof, setProof] = useState(EMPTY);
  const renew = () => {
    setProof(EMPTY);
    void queries.invalidateQueries({ queryKey: secondFactorQuery.queryKey });
  };
  const turningOff = useMutation({
    mutationFn: () => turnOffSecondFactor(proof),
    onSuccess: () => {
      show([]);
      renew();
    },
  });
  const renewing = useMutation({
    mutationFn: () => renewRecoveryCodes(proof),
    onSuccess: (answer) => {
      show(answer.recovery_codes);
      renew();
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    renewing.mutate();
  };
  const failed = turningOff.error ?? renewing.error;
  return (
    <form onSubmit={submit} className="space-y-3">
      <ProofFields proof={proof} set={setProof} />
      {failed ? <ProblemNote error={failed} /> : null}
      <div className="flex flex-wrap gap-3">
        <button type="submit" className="button-quiet" disabled={renewing.isPending}>
          New recovery codes
        </button>
        <button
          type="button"
          className="button-quiet"
          disabled={turningOff.isPending || !proof.password || !proof.code}
          onClick={() => turningOff.mutate()}
        >
          Turn it off
        </button>
      </div>
    </form>
  );
}
