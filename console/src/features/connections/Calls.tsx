import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { Problem } from "../../api/http";
import { callAddressQuery, endCalls, endCallSecret, expectCalls, incomingCallsQuery, newCallSecret, registerCalls } from "../../api/incoming";
import type { CallAddress, Connection } from "../../api/types";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { ago, day } from "../../parts/words";

const PROMISES: [number, string][] = [
  [0, "promises nothing"],
  [60, "at least every hour"],
  [360, "at least every 6 hours"],
  [1440, "at least every day"],
  [10_080, "at least every week"],
];

/** Where an end calls us when something happens there: its address, its secrets, and what came. */
export function Calls({ connection }: { connection: Connection }) {
  const { slug } = useWorkspace();
  const found = useQuery({ ...callAddressQuery(slug, connection.slug), retry: false });
  if (found.isPending) return <Loading what="the calls" lines={3} />;
  if (found.isError) {
    // An end that calls nobody has no such panel.
    const callsNobody = found.error instanceof Problem && found.error.code === "calls-nobody";
    return callsNobody ? null : <ProblemNote error={found.error} again={() => void found.refetch()} />;
  }
  return (
    <section aria-labelledby="calls" className="sheet mt-5">
      <h2 id="calls" className="mb-2 text-lg font-semibold">
        Calls from this end
      </h2>
      <p className="text-sm text-faded">
        It calls when something happens, and the document is looked at right away. What a call says besides is never believed.
      </p>
      <dl className="mt-3 grid gap-x-5 gap-y-1 md:grid-cols-[9rem_1fr]">
        <dt className="text-faded">Address to call</dt>
        <dd>
          <code className="break-all">{found.data.address}</code>
        </dd>
        <dt className="text-faded">Last call</dt>
        <dd>
          {found.data.last_call_at ? ago(found.data.last_call_at) : "never"}
          {found.data.silent ? <strong className="ml-2 font-medium text-madder">! silent: it should have called by now</strong> : null}
        </dd>
        {found.data.refused ? (
          <>
            <dt className="text-faded">Refused</dt>
            <dd>
              {found.data.refused.toLocaleString("en-GB")}, the last {found.data.last_refused_at ? ago(found.data.last_refused_at) : ""} because{" "}
              {found.data.last_refused_why}
            </dd>
          </>
        ) : null}
      </dl>
      <Set connection={connection.slug} address={found.data} />
      <Came connection={connection.slug} />
    </section>
  );
}

function Set({ connection, address }: { connection: string; address: CallAddress }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const changed = () => queries.invalidateQueries({ queryKey: callAddressQuery(slug, connection).queryKey });
  const [secret, setSecret] = useState("");
  const registering = useMutation({ mutationFn: () => registerCalls(slug, connection), onSuccess: changed });
  const ending = useMutation({ mutationFn: () => endCalls(slug, connection), onSuccess: changed });
  const making = useMutation({
    mutationFn: () => newCallSecret(slug, connection),
    onSuccess: (made) => {
      setSecret(made.secret);
      void changed();
    },
  });
  const withdrawing = useMutation({ mutationFn: (number: number) => endCallSecret(slug, connection, number), onSuccess: changed });
  const expecting = useMutation({ mutationFn: (minutes: number) => expectCalls(slug, connection, minutes), onSuccess: changed });
  const minutes = address.expected_within_minutes;
  const promises = PROMISES.some(([one]) => one === minutes) ? PROMISES : [...PROMISES, [minutes, `at least every ${minutes} minutes`] as [number, string]];
  return (
    <div className="mt-3 space-y-3">
      <ul className="text-sm">
        {address.secrets.map((one) => (
          <li key={one.id}>
            Secret {one.id}, made on {day(one.made_at)} by {one.made_by || "somebody"}
            {one.ends_at ? `, good until ${day(one.ends_at)}` : ""}
            {may("edit") ? (
              <button type="button" className="link ml-3" disabled={withdrawing.isPending} onClick={() => withdrawing.mutate(one.id)}>
                End it now
              </button>
            ) : null}
          </li>
        ))}
        {address.secrets.length ? null : <li className="text-faded">No secret yet, so nothing that calls is believed.</li>}
      </ul>
      {secret ? (
        <p role="status" className="border-l-4 border-moss pl-3">
          The new secret, shown this once: <code className="break-all">{secret}</code>
        </p>
      ) : null}
      {may("edit") ? (
        <div className="flex flex-wrap items-center gap-3">
          {address.can_register ? (
            <>
              <button type="button" className="button-quiet" disabled={registering.isPending} onClick={() => registering.mutate()}>
                {address.secrets.length ? "Register anew there" : "Register this address there"}
              </button>
              <button type="button" className="button-quiet" disabled={ending.isPending} onClick={() => ending.mutate()}>
                Have it call nobody
              </button>
            </>
          ) : null}
          <button type="button" className="button-quiet" disabled={making.isPending} onClick={() => making.mutate()}>
            New secret, to enter by hand
          </button>
          <label>
            It calls{" "}
            <select className="field" value={minutes} onChange={(event) => expecting.mutate(Number(event.target.value))}>
              {promises.map(([one, name]) => (
                <option key={one} value={one}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        </div>
      ) : null}
      {registering.data ? <p role="status">It calls {registering.data.is_ours ? "us" : registering.data.registered_to} from now on.</p> : null}
      {ending.isSuccess ? <p role="status">It calls nobody any more.</p> : null}
      {[registering, ending, making, withdrawing, expecting].map((one, place) =>
        one.isError ? <ProblemNote key={place} error={one.error} /> : null,
      )}
    </div>
  );
}

function Came({ connection }: { connection: string }) {
  const { slug } = useWorkspace();
  const found = useQuery(incomingCallsQuery(slug, connection));
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  if (!found.data?.items.length) return null;
  return (
    <div className="mt-4 overflow-x-auto">
      <h3 className="font-sans font-medium">The last calls</h3>
      <table className="w-full">
        <thead>
          <tr className="border-b border-line *:py-1 *:pr-3">
            {["Received", "About", "Number", "What became of it"].map((name) => (
              <th key={name} scope="col">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {found.data.items.map((one) => (
            <tr key={one.id} className="border-b border-line *:py-1 *:pr-3">
              <td className="whitespace-nowrap">{ago(one.received_at)}</td>
              <td>{one.kind}</td>
              <td>{one.number}</td>
              <td>{BECAME[one.state] ?? one.state}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const BECAME: Record<string, string> = {
  waiting: "waits to be looked at",
  done: "looked at",
  "not carried": "no lane is on for it",
  "not found": "the end has no such document",
};
