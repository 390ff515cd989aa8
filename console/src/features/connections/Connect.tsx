import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";

import { connect, connectionQuery, kindsQuery } from "../../api/connections";
import { companiesQuery } from "../../api/people";
import type { Connection, Kind } from "../../api/types";
import { Labelled, PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { Checked } from "./Checked";
import { CredentialFields } from "./CredentialFields";
import { slugOf } from "./form";

/** Connect an end: pick its kind, fill the form made from its schema; it is checked at once. */
export function Connect() {
  useTitle("Connect an end");
  const kinds = useQuery(kindsQuery);
  return (
    <>
      <PageHead title="Connect an end" />
      {kinds.isPending ? <Loading what="the kinds of ends" /> : null}
      {kinds.isError ? <ProblemNote error={kinds.error} again={() => void kinds.refetch()} /> : null}
      {kinds.data ? <Form kinds={kinds.data} /> : null}
    </>
  );
}

function Form({ kinds }: { kinds: Kind[] }) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const companies = useQuery(companiesQuery(slug));
  const [kindName, setKindName] = useState("");
  const [name, setName] = useState("");
  const [address, setAddress] = useState("");
  const [company, setCompany] = useState("");
  const [credentials, setCredentials] = useState<Record<string, string>>({});
  const kind = kinds.find((one) => one.name === kindName);
  const connecting = useMutation({
    mutationFn: () =>
      connect(slug, {
        slug: slugOf(name),
        name,
        kind: kindName,
        address,
        company: company || null,
        credentials: Object.fromEntries(Object.entries(credentials).filter(([, value]) => value !== "")),
      }),
    onSuccess: () => queries.invalidateQueries({ queryKey: [slug, "connections"] }),
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    connecting.mutate();
  };
  if (connecting.data) return <Connected made={connecting.data} />;
  return (
    <form onSubmit={submit} className="sheet max-w-xl space-y-4">
      <Labelled
        label="Kind"
        value={kindName}
        required
        onChange={(value) => {
          setKindName(value);
          setCredentials({});
        }}
        options={kinds.map((one) => [one.name, `${one.title} – ${one.side}`] as const)}
      />
      <Labelled label="Name" value={name} required onChange={setName} hint="What people call it, such as “Web shop”." />
      <Labelled label="Address" value={address} required onChange={setAddress} hint="Paste it as it is; what can be mended is." />
      <Labelled
        label="Company"
        value={company}
        onChange={setCompany}
        options={(companies.data?.items ?? []).map((one) => [one.slug, one.name] as const)}
      />
      {kind ? <CredentialFields kind={kind} values={credentials} onChange={setCredentials} /> : null}
      {connecting.isError ? <ProblemNote error={connecting.error} /> : null}
      <button type="submit" className="button" disabled={connecting.isPending}>
        {connecting.isPending ? "Connecting…" : "Connect and check"}
      </button>
    </form>
  );
}

function Connected({ made }: { made: Connection }) {
  const { slug } = useWorkspace();
  const found = useQuery({ ...connectionQuery(slug, made.slug), initialData: made });
  const connection = { ...found.data, mended: made.mended };
  return (
    <div className="max-w-2xl space-y-4">
      <Checked connection={connection} />
      <Link className="button" to={`/${slug}/connections/${connection.slug}`}>
        Go to {connection.name}
      </Link>
    </div>
  );
}
