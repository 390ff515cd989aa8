import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { baseQuery, writeBase } from "../../api/bridges";
import type { BaseRulebook } from "../../api/types";
import { Labelled, PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted } from "../../parts/words";
import type { EditorHandle } from "../editor/RulesEditor";
import { TextOrFields, toLine, useShown } from "../editor/TextOrFields";
import { Edits } from "../mapping/edits";
import { useBaseSubject, useFoundNow } from "../mapping/subject";
import { FoundInRules } from "./FoundInRules";
import { findingsOf } from "./refused";

/** The rules that several bridges build on: their text, and what becomes of the bridges when it changes. */
export function BaseRules() {
  const { slug } = useWorkspace();
  const { base = "" } = useParams();
  useTitle("Base rules");
  return (
    <>
      <PageHead title="Base rules">
        <Link className="link" to={`/${slug}/bridges`}>
          Back to the bridges
        </Link>
      </PageHead>
      {base ? <Known key={base} name={base} /> : <Editor base={null} />}
    </>
  );
}

function Known({ name }: { name: string }) {
  const { slug } = useWorkspace();
  const found = useQuery(baseQuery(slug, name));
  if (found.isPending) return <Loading what={name} lines={12} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  return <Editor key={found.data.number} base={found.data} />;
}

function Editor({ base }: { base: BaseRulebook | null }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const handle = useRef<EditorHandle>(null);
  const shown = useShown();
  const [edits] = useState(() => new Edits());
  const [name, setName] = useState(base?.name ?? "client.yaml");
  const [text, setText] = useState(base?.text ?? "");
  const newest = useRef(text);
  const take = (changed: string) => {
    newest.current = changed;
    setText(changed);
  };
  const subject = useBaseSubject(slug, name, base);
  const [redraft, setRedraft] = useState(true);
  const writing = useMutation({
    mutationFn: async () => {
      await edits.made();
      return writeBase(slug, { name, text: newest.current, redraft });
    },
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: [slug] });
      void navigate(`/${slug}/base-rules/${made.name}`);
    },
  });
  const edited = text !== (base?.text ?? "");
  const now = useFoundNow(subject, text, edited);
  const refused = edited ? findingsOf(writing.error) : [];
  const wrong = now ?? refused;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] items-start gap-5 lg:grid-cols-[minmax(0,1fr)_22rem]">
      <section aria-labelledby="text" className="sheet">
        <h2 id="text" className="mb-2 text-lg font-semibold">
          {base ? `${base.name}, version ${base.number}` : "New base rules"}
          {edited && base ? <span className="font-sans text-base font-normal text-faded"> – changed, not saved yet</span> : null}
        </h2>
        {base ? null : (
          <div className="mb-3 max-w-xs">
            <Labelled label="Name, as based_on says it" value={name} onChange={setName} required />
          </div>
        )}
        <TextOrFields subject={subject} text={text} onText={take} edits={edits} findings={wrong} handle={handle} shown={shown} />
        {may("edit") ? (
          <div className="mt-3 flex flex-wrap items-center gap-x-5 gap-y-2">
            <button type="button" className="button" disabled={!edited || writing.isPending} onClick={() => writing.mutate()}>
              {writing.isPending ? "Checking…" : "Check and save"}
            </button>
            {base?.bridges.length ? (
              <label className="flex items-center gap-2">
                <input type="checkbox" checked={redraft} onChange={(event) => setRedraft(event.target.checked)} />
                Write new drafts for {counted(base.bridges.length, "bridge")}
              </label>
            ) : null}
          </div>
        ) : null}
        {writing.error && !refused.length ? <ProblemNote error={writing.error} /> : null}
      </section>
      <div className="space-y-5">
        <FoundInRules
          findings={wrong}
          file={subject.file}
          checked={edited ? now !== undefined : Boolean(base)}
          nothing="Nothing: each line could stand in a rulebook. Both ends are asked where a bridge builds on it."
          onLine={(line) => toLine(handle, shown, line)}
        />
        {base ? <Bridges base={base} /> : null}
      </div>
    </div>
  );
}

function Bridges({ base }: { base: BaseRulebook }) {
  const { slug } = useWorkspace();
  return (
    <section aria-labelledby="built" className="sheet">
      <h2 id="built" className="mb-2 text-lg font-semibold">
        Bridges that build on it
      </h2>
      {base.bridges.length ? null : <p className="text-faded">None yet: say based_on: {base.name} in the rules of a bridge.</p>}
      <ul className="space-y-2">
        {base.bridges.map((one) => (
          <li key={one.bridge}>
            <Link className="link" to={`/${slug}/bridges/${one.bridge}/rules`}>
              {one.bridge}
            </Link>
            <span className="block text-sm text-faded">
              version {one.rulebook}, {one.published ? "in force" : "a draft"}
              {one.on === base.number ? "" : `, written on version ${one.on} of it`}
            </span>
            {one.errors ? <span className="block text-sm text-madder">{counted(one.errors, "thing")} to mend</span> : null}
          </li>
        ))}
      </ul>
    </section>
  );
}
