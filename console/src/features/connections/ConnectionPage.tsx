import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useParams } from "react-router";

import {
  changeConnection,
  checkConnection,
  connectionQuery,
  kindsQuery,
  pauseConnection,
  removeConnection,
  switchBack,
  switchCompany,
} from "../../api/connections";
import type { Connection } from "../../api/types";
import { Ending } from "../../parts/Ending";
import { Labelled, PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { Removal } from "../../parts/Removal";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { ago } from "../../parts/words";
import { Calls } from "./Calls";
import { Checked } from "./Checked";
import { CredentialFields } from "./CredentialFields";
import { Names } from "./Names";
import { SignInThere } from "./SignInThere";

/** One end: its state, its rights, its reference data, and its key. */
export function ConnectionPage() {
  const { slug, may } = useWorkspace();
  const { connection: name = "" } = useParams();
  const queries = useQueryClient();
  const found = useQuery(connectionQuery(slug, name));
  useTitle(found.data?.name ?? "Connection");
  // Said once by the answer to what was pasted; looking again does not say it again.
  const [mended, setMended] = useState<string[]>([]);
  const keep = (connection: Connection) => {
    setMended(connection.mended);
    queries.setQueryData(connectionQuery(slug, name).queryKey, connection);
    void queries.invalidateQueries({ queryKey: [slug, "connections"] });
  };
  const checking = useMutation({ mutationFn: () => checkConnection(slug, name), onSuccess: keep });
  if (found.isPending) return <Loading what="the connection" />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  const connection = found.data;
  const underWay = checking.isPending || connection.checking;
  return (
    <>
      <PageHead title={connection.name}>
        {may("operate") ? <Pause connection={connection} keep={keep} /> : null}
        {may("operate") ? (
          <button type="button" className="button-quiet" disabled={underWay} onClick={() => checking.mutate()}>
            {underWay ? "Checking…" : "Check now"}
          </button>
        ) : null}
      </PageHead>
      {checking.isError ? <ProblemNote error={checking.error} /> : null}
      <div className="grid items-start gap-5 lg:grid-cols-2">
        <Checked connection={{ ...connection, mended }} />
        {connection.state === "other company" && may("own") ? <Switch connection={connection} keep={keep} /> : null}
        {connection.signed_in && may("edit") ? <SignInThere connection={connection} /> : null}
        {may("edit") ? <Rekey connection={connection} keep={keep} /> : null}
      </div>
      <Calls connection={connection} />
      <Names connection={connection} />
      {may("own") ? (
        <Removal
          what="connection"
          name={connection.name}
          list="connections"
          act={(confirm) => removeConnection(slug, connection.slug, confirm)}
        />
      ) : null}
    </>
  );
}

/** The switch that stops all reading from an end and sending to it, whatever bridges stand on it. */
function Pause({ connection, keep }: { connection: Connection; keep: (connection: Connection) => void }) {
  const { slug } = useWorkspace();
  const pausing = useMutation({ mutationFn: (paused: boolean) => pauseConnection(slug, connection.slug, paused), onSuccess: keep });
  return (
    <>
      {connection.paused_at ? <span className="self-center text-ochre">Paused {ago(connection.paused_at)}</span> : null}
      <button type="button" className="button-quiet" disabled={pausing.isPending} onClick={() => pausing.mutate(connection.paused_at === null)}>
        {connection.paused_at ? "Let it go on" : "Pause"}
      </button>
      {pausing.isError ? <ProblemNote error={pausing.error} /> : null}
    </>
  );
}

function Rekey({ connection, keep }: { connection: Connection; keep: (connection: Connection) => void }) {
  const { slug } = useWorkspace();
  const kinds = useQuery(kindsQuery);
  const [address, setAddress] = useState(connection.address);
  const [credentials, setCredentials] = useState<Record<string, string>>({});
  const kind = kinds.data?.find((one) => one.name === connection.kind);
  const changing = useMutation({
    mutationFn: () => {
      const entered = Object.fromEntries(Object.entries(credentials).filter(([, value]) => value !== ""));
      return changeConnection(slug, connection.slug, {
        address,
        ...(Object.keys(entered).length ? { credentials: entered } : {}),
      });
    },
    onSuccess: (changed) => {
      setCredentials({});
      setAddress(changed.address);
      keep(changed);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    changing.mutate();
  };
  return (
    <form onSubmit={submit} aria-labelledby="rekey" className="sheet space-y-4">
      <h2 id="rekey" className="text-lg font-semibold">
        Address and key
      </h2>
      <Labelled label="Address" value={address} required onChange={setAddress} />
      {kind ? (
        <CredentialFields
          kind={kind}
          values={credentials}
          onChange={setCredentials}
          entered={connection.credentials_entered}
        />
      ) : null}
      {changing.isError ? <ProblemNote error={changing.error} /> : null}
      <button type="submit" className="button-quiet" disabled={changing.isPending}>
        {changing.isPending ? "Saving…" : "Save and check"}
      </button>
    </form>
  );
}

function Switch({ connection, keep }: { connection: Connection; keep: (connection: Connection) => void }) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const [typed, setTyped] = useState("");
  const renew = () => void queries.invalidateQueries({ queryKey: [slug] });
  const back = useMutation({ mutationFn: () => switchBack(slug, connection.slug), onSuccess: keep });
  return (
    <section aria-labelledby="switch" className="sheet space-y-4 border-l-4 border-l-madder">
      <h2 id="switch" className="text-lg font-semibold">
        Switch to another company
      </h2>
      <p>
        The links to {connection.settled_company} end and are kept as history; the lanes are switched off. If you mean
        this, type the name of the company that the end belongs to. For a day, what ended can be brought back.
      </p>
      <Labelled label="Company" value={typed} required onChange={setTyped} />
      <Ending
        label="Switch"
        meant="Switch, and end this"
        act={(confirm) => switchCompany(slug, connection.slug, typed, confirm).then(keep)}
        done={renew}
      />
      <p className="text-sm text-faded">
        Was it switched away from this company by mistake, less than a day ago?{" "}
        <button type="button" className="link" disabled={back.isPending} onClick={() => back.mutate()}>
          Bring back what ended
        </button>
      </p>
      {back.isError ? <ProblemNote error={back.error} /> : null}
    </section>
  );
}
