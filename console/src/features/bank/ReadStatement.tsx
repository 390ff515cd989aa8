import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";

import { takeStatement } from "../../api/bank";
import type { BankAccount } from "../../api/types";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted } from "../../parts/words";

/** A statement of the bank's as a file: taken whole, or not at all. */
export function ReadStatement({ account }: { account: BankAccount }) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const taking = useMutation({
    mutationFn: (file: File) => takeStatement(slug, account.slug, file),
    // Also where it was refused: that it was stands among the files.
    onSettled: () => {
      if (input.current) input.current.value = "";
      return queries.invalidateQueries({ queryKey: [slug, "bank"] });
    },
  });
  return (
    <section aria-labelledby="read" className="sheet">
      <h2 id="read" className="mb-2 text-lg font-semibold">
        Read a statement
      </h2>
      <label className="block">
        <span className="sr-only">A file from the bank</span>
        <input
          ref={input}
          type="file"
          className="field w-full"
          accept=".xml,.csv,.txt"
          disabled={taking.isPending}
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) taking.mutate(file);
          }}
        />
        <span className="mt-1 block text-sm text-faded">
          ISO 20022 (camt.053 or camt.054){account.layout ? ", or a table as it is laid out for this account" : ""}. Statements may overlap:
          lines that are known are recognised.
        </span>
      </label>
      {taking.isPending ? <p role="status">Reading…</p> : null}
      {taking.isError ? <ProblemNote error={taking.error} /> : null}
      {taking.data ? (
        <div role="status" className="mt-2 border-l-4 border-moss pl-3">
          <p>
            {taking.data.name}: {counted(taking.data.lines, "line")}, {taking.data.new_lines} new; {taking.data.matched} matched.
          </p>
          {taking.data.notes.map((note) => (
            <p key={note} className="text-sm text-faded">
              {note}
            </p>
          ))}
        </div>
      ) : null}
    </section>
  );
}
