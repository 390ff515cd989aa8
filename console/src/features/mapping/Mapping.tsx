import { useQuery } from "@tanstack/react-query";

import { bridgeQuery } from "../../api/bridges";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { setting, valueAt } from "../rehearsals/setting";
import type { Edits } from "./edits";
import { Field } from "./Field";
import { keyInWords, resolved, SECTIONS } from "./schema";
import { type Editing, EditingProvider, useEditing } from "./useEditing";

interface Props {
  bridge: string;
  text: string;
  onText: (text: string) => void;
  edits: Edits;
}

/** The rules, section by section in the order of the work; each change is made in the text, which stays as it is else. */
export function Mapping({ bridge, text, onText, edits }: Props) {
  const { slug, may } = useWorkspace();
  const found = useQuery(bridgeQuery(slug, bridge));
  const editing = useEditing(slug, bridge, text, onText, edits);
  if (found.isPending || editing.read.isPending) return <Loading what="the rules as fields" lines={10} />;
  if (found.isError) return <ProblemNote error={found.error} />;
  if (editing.read.isError || !editing.read.data) {
    return (
      <div>
        <p>This text cannot be shown as fields. Correct it as text first.</p>
        {editing.read.error ? <ProblemNote error={editing.read.error} /> : null}
      </div>
    );
  }
  const { values, effective, findings } = editing.read.data;
  const said = (values ?? {}) as Record<string, unknown>;
  const rules: Editing = {
    values: said,
    effective: (effective ?? null) as Record<string, unknown> | null,
    findings,
    readOnly: !may("edit"),
    bridge: { slug: bridge, source: found.data.source, books: found.data.books },
    set: (path, value) =>
      editing.apply((there) =>
        path.endsWith("/-")
          ? { op: "add", path, value }
          : setting(there, path, typeof value === "function" ? (value as (before: unknown) => unknown)(valueAt(there, path)) : value),
      ),
    remove: (path) => editing.apply(() => ({ op: "remove", path })),
  };
  return (
    <EditingProvider value={rules}>
      {editing.failure ? <ProblemNote error={editing.failure} /> : null}
      <div aria-busy={editing.pending} className="divide-y divide-line">
        {SECTIONS.map(([name, schema]) => (
          <section key={name} aria-labelledby={`section-${name}`} className="py-4">
            <h3 id={`section-${name}`} className="text-lg font-semibold first-letter:uppercase">
              {keyInWords(name)}
            </h3>
            <p className="mb-3 text-sm text-faded">{resolved(schema).description}</p>
            <Field at={`/${name}`} label={keyInWords(name)} schema={schema} value={said[name]} otherwise={rules.effective?.[name]} />
          </section>
        ))}
      </div>
    </EditingProvider>
  );
}
