import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useRef, useState } from "react";
import { Link, useParams } from "react-router";

import { publishRules, rulesQuery, rulesVersionsQuery, starterRules, takeUpAgain, writeRules } from "../../api/bridges";
import type { Rulebook, RulebookHead } from "../../api/types";
import { PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { Problem } from "../../api/http";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { day, ruleInWords } from "../../parts/words";
import type { EditorHandle } from "../editor/RulesEditor";
import { TextOrFields, toLine, useShown } from "../editor/TextOrFields";
import { Edits } from "../mapping/edits";
import { useBridgeSubject, useFoundNow } from "../mapping/subject";
import { BuildsOn } from "./BuildsOn";
import { FoundInRules } from "./FoundInRules";
import { findingsOf } from "./refused";
import { Rehearsed } from "./Rehearsed";
import { RuleChanges } from "./RuleChanges";

// Fields are many, and not everybody comes for them.
const Beside = lazy(async () => ({ default: (await import("../mapping/Beside")).Beside }));

/** The rules of a bridge: the text of a version, what is wrong with it line by line, and its publishing. */
export function Rules() {
  const { slug } = useWorkspace();
  const { bridge = "" } = useParams();
  useTitle("Rules");
  const versions = useQuery(rulesVersionsQuery(slug, bridge));
  const [number, setNumber] = useState<number | null>(null);
  if (versions.isPending) return <Loading what="the rules" lines={12} />;
  if (versions.isError) return <ProblemNote error={versions.error} again={() => void versions.refetch()} />;
  const shown = number ?? versions.data.items[0]?.number ?? null;
  return (
    <>
      <PageHead title="Rules">
        <Link className="link" to={`/${slug}/bridges/${bridge}/rehearsal`}>
          Rehearsal and coverage
        </Link>
        <Link className="link" to={`/${slug}/bridges/${bridge}/proposal`}>
          Learn rules from the books
        </Link>
        <Link className="link" to={`/${slug}/bridges/${bridge}`}>
          Back to the bridge
        </Link>
      </PageHead>
      {shown === null ? (
        <Editor bridge={bridge} version={null} versions={[]} choose={setNumber} />
      ) : (
        <Version key={shown} bridge={bridge} number={shown} versions={versions.data.items} choose={setNumber} />
      )}
    </>
  );
}

interface Chosen {
  bridge: string;
  versions: RulebookHead[];
  choose: (number: number) => void;
}

function Version({ number, ...chosen }: Chosen & { number: number }) {
  const { slug } = useWorkspace();
  const found = useQuery(rulesQuery(slug, chosen.bridge, number));
  if (found.isPending) return <Loading what={`version ${number}`} lines={12} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  return <Editor {...chosen} version={found.data} />;
}

function Editor({ bridge, version, versions, choose }: Chosen & { version: Rulebook | null }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const handle = useRef<EditorHandle>(null);
  const shown = useShown();
  const subject = useBridgeSubject(slug, bridge);
  const [text, setText] = useState(version?.text ?? "");
  const [edits] = useState(() => new Edits());
  // A change in a field is made in the text a moment later: what is saved waits for it.
  const newest = useRef(text);
  const take = (changed: string) => {
    newest.current = changed;
    setText(changed);
  };
  const [note, setNote] = useState("");
  // What the text began from: the version shown, or a newer one that its changes were put together with.
  const [began, setBegan] = useState(version?.number);
  const changed = () => queries.invalidateQueries({ queryKey: [slug, "bridge", bridge] });
  const writing = useMutation({
    mutationFn: async () => {
      await edits.made();
      return writeRules(slug, bridge, newest.current, began);
    },
    onSuccess: (made) => {
      void changed();
      choose(made.number);
    },
  });
  const starting = useMutation({ mutationFn: () => starterRules(slug, bridge), onSuccess: (made) => take(made.text) });
  const publishing = useMutation({ mutationFn: (made: Rulebook) => publishRules(slug, bridge, made.number, note), onSuccess: changed });
  const goingBack = useMutation({
    mutationFn: (to: Rulebook) => takeUpAgain(slug, bridge, to.number),
    onSuccess: (made) => {
      void changed();
      choose(made.number);
    },
  });
  const edited = text !== (version?.text ?? "");
  const outdated = version?.layers.some((layer) => layer.newest > layer.number) ?? false;
  const refused = findingsOf(edited ? writing.error : publishing.error);
  const now = useFoundNow(subject, text, edited);
  // What was refused is of the text that was sent; as soon as this one was looked at, it counts.
  const wrong = edited ? (now ?? refused) : refused.length ? refused : (version?.findings ?? []);
  const meanwhile = writtenMeanwhile(writing.error);
  const failed = [meanwhile ? null : writing.error, starting.error, publishing.error, goingBack.error].find(
    (error) => error && !findingsOf(error).length,
  );
  const takeBoth = (both: Meanwhile) => {
    take(both.merged);
    setBegan(both.newest);
    writing.reset();
  };
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] items-start gap-5 lg:grid-cols-[minmax(0,1fr)_22rem]">
      <section aria-labelledby="text" className="sheet">
        <h2 id="text" className="mb-2 text-lg font-semibold">
          {version ? `Version ${version.number}` : "The first version"}
          {edited && version ? <span className="font-sans text-base font-normal text-faded"> – changed, not saved yet</span> : null}
        </h2>
        <TextOrFields subject={subject} text={text} onText={take} edits={edits} findings={wrong} handle={handle} shown={shown} />
        {may("edit") ? (
          <div className="mt-3 flex flex-wrap gap-3">
            <button type="button" className="button" disabled={!(edited || outdated) || writing.isPending} onClick={() => writing.mutate()}>
              {writing.isPending ? "Checking…" : edited || !outdated ? "Check and save as a draft" : "Write a new draft on the newest base"}
            </button>
            {version === null ? (
              <button type="button" className="button-quiet" disabled={starting.isPending} onClick={() => starting.mutate()}>
                {starting.isPending ? "Proposing…" : "Propose rules from what was loaded"}
              </button>
            ) : null}
            {version && !version.published_at && !may("publish") ? (
              <p className="self-center text-faded">Somebody who may publish rules puts this draft in force.</p>
            ) : null}
            {version && !version.published_at && may("publish") ? (
              <>
                <button
                  type="button"
                  className="button-quiet"
                  disabled={edited || publishing.isPending}
                  onClick={() => publishing.mutate(version)}
                >
                  Publish version {version.number}
                </button>
                <input
                  aria-label="Note on this version"
                  className="field min-w-0 flex-1"
                  placeholder="A note, such as what was agreed with whom"
                  maxLength={500}
                  value={note}
                  onChange={(event) => setNote(event.target.value)}
                />
              </>
            ) : null}
            {may("publish") && version?.published_at && version.number !== inForceOf(versions)?.number ? (
              <button type="button" className="button-quiet" disabled={edited || goingBack.isPending} onClick={() => goingBack.mutate(version)}>
                Put version {version.number} in force again
              </button>
            ) : null}
          </div>
        ) : null}
        {meanwhile ? <WrittenMeanwhile said={writing.error} both={meanwhile} take={() => takeBoth(meanwhile)} /> : null}
        {failed ? <ProblemNote error={failed} /> : null}
      </section>
      <div className="space-y-5">
        <FoundInRules
          findings={wrong}
          file={subject.file}
          checked={edited ? now !== undefined : Boolean(version)}
          onLine={(line) => toLine(handle, shown, line)}
        />
        {version && !edited && versions.some((one) => one.published_at) ? (
          <>
            <RuleChanges bridge={bridge} version={version} inForce={inForceOf(versions)} />
            {version.published_at ? null : <Rehearsed bridge={bridge} number={version.number} />}
          </>
        ) : null}
        <Suspense fallback={null}>
          <Beside bridge={bridge} text={text} saved={version?.text ?? text} />
        </Suspense>
        {version?.layers.length ? <BuildsOn layers={version.layers} /> : null}
        <section aria-labelledby="versions" className="sheet">
          <h2 id="versions" className="mb-2 text-lg font-semibold">
            Versions
          </h2>
          {versions.length ? null : <p className="text-faded">None yet. Write the rules, or paste them from a file.</p>}
          <ul className="space-y-1">
            {versions.map((one) => (
              <li key={one.number}>
                <button
                  type="button"
                  className="link"
                  aria-current={one.number === version?.number}
                  onClick={() => choose(one.number)}
                >
                  Version {one.number}
                </button>
                <span className="block text-sm text-faded">{stateOf(one, versions)}</span>
                {one.note ? <span className="block text-sm">{one.note}</span> : null}
              </li>
            ))}
          </ul>
        </section>
      </div>
    </div>
  );
}

interface Meanwhile {
  newest: number;
  merged: string;
  conflicts: string[];
}

/** What the service says of a newer version that somebody else wrote; nothing where it failed for anything else. */
function writtenMeanwhile(error: Error | null): Meanwhile | null {
  if (!(error instanceof Problem) || error.code !== "written-meanwhile") return null;
  return error.members as unknown as Meanwhile;
}

function WrittenMeanwhile({ said, both, take }: { said: Error | null; both: Meanwhile; take: () => void }) {
  return (
    <div role="alert" className="mt-3 border-l-4 border-ochre pl-3">
      <p>{said?.message}</p>
      {both.conflicts.length ? (
        <p className="text-sm">
          Both of you changed {both.conflicts.map(ruleInWords).join(", ")}: there the text will have theirs.
        </p>
      ) : (
        <p className="text-sm">Their changes and yours do not touch the same values.</p>
      )}
      <button type="button" className="button-quiet mt-2" onClick={take}>
        Take both together
      </button>
    </div>
  );
}

function inForceOf(versions: RulebookHead[]): RulebookHead | undefined {
  return versions.find((one) => one.published_at);
}

function stateOf(version: RulebookHead, versions: RulebookHead[]): string {
  const inForce = inForceOf(versions);
  const by = version.author ? ` by ${version.author}` : "";
  if (!version.published_at) return `draft${by}`;
  return `${version === inForce ? "in force" : "published"}, ${day(version.published_at)}${by}`;
}
