import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { erasureQuery, eraseBuyer } from "../../api/people";
import { Labelled } from "../../parts/Labelled";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted } from "../../parts/words";

/** Erasing all that tells of one buyer; it goes on in the background, and what it came to is said. */
export function EraseBuyer() {
  const { slug } = useWorkspace();
  const [email, setEmail] = useState("");
  const erasing = useMutation({ mutationFn: () => eraseBuyer(slug, email) });
  const found = useQuery(erasureQuery(slug, erasing.data?.id));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    erasing.mutate();
  };
  const done = found.data?.ended_at ? found.data : null;
  return (
    <section aria-labelledby="erase" className="sheet">
      <h2 id="erase" className="mb-2 text-lg font-semibold">
        Erase a buyer
      </h2>
      <p className="mb-3 text-sm text-faded">
        All that tells of the buyer with this e-mail is erased here; figures, checksums and history stay. Erase them at the
        shop first. The books keep what tax law asks for.
      </p>
      <form onSubmit={submit} className="space-y-3">
        <Labelled label="E-mail of the buyer" type="email" value={email} required onChange={setEmail} />
        {erasing.isError ? <ProblemNote error={erasing.error} /> : null}
        <button type="submit" className="button-quiet" disabled={erasing.isPending || (erasing.isSuccess && !done)}>
          {erasing.isSuccess && !done ? "Erasing…" : "Erase"}
        </button>
      </form>
      {done ? (
        <p role="status" className="mt-3 border-l-4 border-moss pl-3 text-sm">
          Erased in {counted(done.snapshots, "document")} and {counted(done.names, "loaded name")}.{" "}
          {done.kept.length ? `Not carried yet, so they keep their buyer: ${done.kept.join(", ")}.` : null}
        </p>
      ) : null}
    </section>
  );
}
