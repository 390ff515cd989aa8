import type { EditedBase } from "../../api/types";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { setting, valueAt } from "../rehearsals/setting";
import type { Edits } from "./edits";
import { Field } from "./Field";
import { keyInWords, resolved, SECTIONS } from "./schema";
import type { Subject } from "./subject";
import { type Editing, EditingProvider, useEditing } from "./useEditing";

interface Props {
  subject: Subject;
  text: string;
  onText: (text: string) => void;
  edits: Edits;
}

/** The rules, section by section in the order of the work; each change is made in the text, which stays as it is else. */
export function Mapping({ subject, text, onText, edits }: Props) {
  const { may } = useWorkspace();
  const editing = useEditing(subject, text, onText, edits);
  if (editing.read.isPending) return <Loading what="the rules as fields" lines={10} />;
  if (editing.read.isError || !editing.read.data) {
    return (
      <div>
        <p>This text cannot be shown as fields. Correct it as text first.</p>
        {editing.read.error ? <ProblemNote error={editing.read.error} /> : null}
      </div>
    );
  }
  const { values, inherited, effective, findings } = editing.read.data;
  const said = (values ?? {}) as Record<string, unknown>;
  const rules: Editing = {
    values: said,
    inherited,
    effective: (effective ?? null) as Record<string, unknown> | null,
    built: (editing.read.data as Partial<EditedBase>).bridges ?? [],
    findings,
    readOnly: !may("edit"),
    bridge: subject.bridge,
    ends: subject.ends,
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
            <Field at={`/${name}`} label={keyInWords(name)} schema={schema} value={said[name]} otherwise={rules.effective?.[name] ?? (rules.inherited as Record<string, unknown> | null)?.[name]} />
          </section>
        ))}
      </div>
    </EditingProvider>
  );
}
