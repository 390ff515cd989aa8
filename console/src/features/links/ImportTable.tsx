import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { importTable, type LinkKind, tableAddress, undoLink } from "../../api/links";
import type { ImportPreview } from "../../api/types";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted } from "../../parts/words";

/** The table taken out, filled in elsewhere, and brought back: first what it would change, then the change. */
export function ImportTable({ bridge, kind }: { bridge: string; kind: LinkKind }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const changed = () => queries.invalidateQueries({ queryKey: [slug, "links", bridge, kind] });
  const looking = useMutation({ mutationFn: (chosen: File) => importTable(slug, bridge, kind, chosen, false) });
  const applying = useMutation({
    mutationFn: (chosen: File) => importTable(slug, bridge, kind, chosen, true),
    onSuccess: changed,
  });
  const undoing = useMutation({ mutationFn: (change: number) => undoLink(slug, bridge, kind, change), onSuccess: changed });
  const choose = (chosen: File | null) => {
    setFile(chosen);
    applying.reset();
    undoing.reset();
    looking.reset();
    if (chosen) looking.mutate(chosen);
  };
  const shown = applying.data ?? looking.data;
  return (
    <div className="grid items-start gap-5 lg:grid-cols-2">
      <section aria-labelledby="export" className="sheet">
        <h2 id="export" className="text-lg font-semibold">
          Export
        </h2>
        <p className="mt-1 mb-3 text-faded">Every row, with what is open leading to nothing.</p>
        <div className="flex gap-3">
          <a className="button-quiet" href={tableAddress(slug, bridge, kind, "csv")}>
            CSV
          </a>
          <a className="button-quiet" href={tableAddress(slug, bridge, kind, "xlsx")}>
            XLSX
          </a>
        </div>
      </section>
      {may("edit") ? (
        <section aria-labelledby="import" className="sheet">
          <h2 id="import" className="text-lg font-semibold">
            Import
          </h2>
          <p className="mt-1 mb-3 text-faded">
            The same columns, as CSV or XLSX. Several rows for one make a kit; “none” says that there is no counterpart.
          </p>
          <label className="block">
            <span className="mb-1 block font-medium">File</span>
            <input type="file" className="field w-full" accept=".csv,.xlsx" onChange={(event) => choose(event.target.files?.[0] ?? null)} />
          </label>
          {looking.isPending || applying.isPending ? <p role="status">Reading {file?.name}…</p> : null}
          {looking.isError ? <ProblemNote error={looking.error} /> : null}
          {applying.isError ? <ProblemNote error={applying.error} /> : null}
          {shown ? <Preview found={shown} /> : null}
          {looking.data && !applying.data && file && looking.data.added + looking.data.changed ? (
            <button type="button" className="button mt-3" disabled={applying.isPending} onClick={() => applying.mutate(file)}>
              Put {counted(looking.data.added + looking.data.changed, "link")} in place
            </button>
          ) : null}
          {applying.data?.change && !undoing.data ? (
            <button
              type="button"
              className="button-quiet mt-3"
              disabled={undoing.isPending}
              onClick={() => applying.data.change && undoing.mutate(applying.data.change)}
            >
              Take the import back
            </button>
          ) : null}
          {undoing.isError ? <ProblemNote error={undoing.error} /> : null}
          {undoing.data ? <p role="status">Taken back.</p> : null}
        </section>
      ) : null}
    </div>
  );
}

function Preview({ found }: { found: ImportPreview }) {
  return (
    <div className="mt-3">
      <p role="status" className="font-medium">
        {counted(found.rows, "row")}: {found.added} new, {found.changed} other than before, {found.unchanged} as they are,{" "}
        {found.unanswered} unanswered{found.applied ? ". In place." : "."}
      </p>
      {found.bad.length ? (
        <>
          <p className="mt-2 text-madder">
            {counted(found.bad_rows, "row")} cannot be taken
            {found.bad_rows > found.bad.length ? `; the first ${found.bad.length} of them are` : ""}:
          </p>
            <table className="mt-1 w-full">
              <thead>
                <tr className="border-b border-line *:py-1">
                  <th scope="col">Row</th>
                  <th scope="col">Column</th>
                  <th scope="col">What is wrong</th>
                </tr>
              </thead>
              <tbody>
                {found.bad.map((bad) => (
                  <tr key={bad.row} className="border-b border-line *:py-1 *:pr-3">
                    <td className="tabular-nums">{bad.row}</td>
                    <td>{bad.column}</td>
                    <td>{bad.text}</td>
                  </tr>
                ))}
              </tbody>
            </table>
        </>
      ) : null}
    </div>
  );
}
