import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { statementFilesQuery } from "../../api/bank";
import type { BankAccount } from "../../api/types";
import { Heads } from "../../parts/Heads";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { Turn } from "../../parts/Turn";
import { useWorkspace } from "../../parts/useWorkspace";
import { day } from "../../parts/words";

/** The files that were read, and why any was refused. */
export function StatementFiles({ account }: { account: BankAccount }) {
  const { slug } = useWorkspace();
  const [cursor, setCursor] = useState("");
  const found = useQuery(statementFilesQuery(slug, account.slug, cursor));
  if (found.isPending) return <Loading what="the statements" lines={3} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  if (found.data.items.length === 0) return null;
  return (
    <section aria-labelledby="files" className="sheet">
      <h2 id="files" className="mb-2 text-lg font-semibold">
        Statements
      </h2>
      {/* Nothing inside can be gone to, so the table itself can: it is moved by the arrows. */}
      {/* eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex */}
      <div className="overflow-x-auto" role="group" aria-labelledby="files" tabIndex={0}>
        <table className="w-full">
          <Heads names={["File", "Read on", "Lines>", "New>", "What there is to say"]} />
          <tbody>
            {found.data.items.map((file) => (
              <tr key={file.id} className="border-b border-line align-baseline *:px-3 *:py-1.5">
                <td>{file.name}</td>
                <td className="whitespace-nowrap">{day(file.read_at)}</td>
                <td className="text-right tabular-nums">{file.lines.toLocaleString("en-GB")}</td>
                <td className="text-right tabular-nums">{file.new_lines.toLocaleString("en-GB")}</td>
                <td>
                  {file.problem ? <span className="text-madder">Refused: {file.problem}</span> : <span className="text-faded">{file.notes.join(" ")}</span>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Turn page={found.data} go={(next) => setCursor(next)} />
    </section>
  );
}
