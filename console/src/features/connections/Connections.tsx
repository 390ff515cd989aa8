import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { connectionsQuery } from "../../api/connections";
import type { Connection } from "../../api/types";
import { Heads } from "../../parts/Heads";
import { Empty } from "../../parts/Empty";
import { PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { StateMark } from "../../parts/StateMark";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { ago } from "../../parts/words";

/** Every end of the client, with its state in sight. */
export function Connections() {
  useTitle("Connections");
  const { slug, may } = useWorkspace();
  const found = useQuery(connectionsQuery(slug));
  const add = may("edit") ? (
    <Link className="button" to={`/${slug}/connections/new`}>
      Connect an end
    </Link>
  ) : null;
  return (
    <>
      <PageHead title="Connections">{add}</PageHead>
      {found.isPending ? <Loading what="connections" /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {found.data && !found.data.items.length ? (
        <Empty title="Nothing is connected yet">
          Connect the shop and the books of the client first; everything else starts from there.
        </Empty>
      ) : null}
      {found.data?.items.length ? <Table rows={found.data.items} /> : null}
    </>
  );
}

function Table({ rows }: { rows: Connection[] }) {
  const { slug } = useWorkspace();
  return (
    <div className="overflow-x-auto border border-line bg-page">
      <table className="w-full">
        <Heads names={["End", "Side", "Belongs to", "State", "Last contact"]} />
        <tbody>
          {rows.map((row) => (
            <tr key={row.slug} className="border-b border-line align-top *:px-3 *:py-2 hover:bg-wash">
              <td>
                <Link className="link" to={`/${slug}/connections/${row.slug}`}>
                  {row.name}
                </Link>
                <span className="block text-xs text-faded">{row.address}</span>
              </td>
              <td>{row.side}</td>
              <td>
                {row.described?.company ?? "–"}
                {row.described ? (
                  <span className="block text-xs text-faded">
                    {row.described.currency}, {row.described.time_zone}
                  </span>
                ) : null}
              </td>
              <td className="max-w-md">
                <StateMark state={row.state} />
                {row.state_text ? <span className="block text-xs text-faded">{row.state_text}</span> : null}
              </td>
              <td className="whitespace-nowrap">{row.last_contact_at ? ago(row.last_contact_at) : "never"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
