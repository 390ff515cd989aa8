import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";

import { applyConfiguration, bridgeQuery, bridgesQuery, compareConfiguration, configurationAddress } from "../../api/bridges";
import type { ConfigurationComparison } from "../../api/types";
import { Heads } from "../../parts/Heads";
import { PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted } from "../../parts/words";

/** All that a bridge was set up with: taken out as a file, or made like that of another bridge or file. */
export function Configuration() {
  const { slug, may } = useWorkspace();
  const { bridge = "" } = useParams();
  const found = useQuery(bridgeQuery(slug, bridge));
  useTitle(found.data ? `Configuration of ${found.data.name}` : "Configuration");
  if (found.isPending) return <Loading what="the bridge" lines={6} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  return (
    <>
      <PageHead title={`Configuration of ${found.data.name}`}>
        <Link className="button-quiet" to={`/${slug}/bridges/${bridge}`}>
          Back to the bridge
        </Link>
      </PageHead>
      <div className="grid items-start gap-5 lg:grid-cols-[22rem_1fr]">
        <section aria-labelledby="out" className="sheet">
          <h2 id="out" className="text-lg font-semibold">
            Take it out
          </h2>
          <p className="mt-1 mb-3 text-faded">
            Rules in force and what they build on, lanes, timetable, notices, and links by code. No keys and no passwords.
          </p>
          <a className="button-quiet" href={configurationAddress(slug, bridge)}>
            Download
          </a>
        </section>
        <Like bridge={bridge} mayApply={may("publish")} />
      </div>
    </>
  );
}

/** Another configuration held against this one, and applied. */
function Like({ bridge, mayApply }: { bridge: string; mayApply: boolean }) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const bridges = useQuery(bridgesQuery(slug));
  const [there, setThere] = useState<File | string | null>(null);
  const [leaveMissing, setLeaveMissing] = useState(false);
  const [draft, setDraft] = useState(false);
  const comparing = useMutation({ mutationFn: (chosen: File | string) => compareConfiguration(slug, bridge, chosen) });
  const applying = useMutation({
    mutationFn: (chosen: File | string) => applyConfiguration(slug, bridge, chosen, { leaveMissing, publish: !draft }),
    onSuccess: () => queries.invalidateQueries({ queryKey: [slug] }),
  });
  const choose = (chosen: File | string | null) => {
    setThere(chosen);
    setLeaveMissing(false);
    applying.reset();
    comparing.reset();
    if (chosen) comparing.mutate(chosen);
  };
  const shown = comparing.data;
  const others = (bridges.data?.items ?? []).filter((one) => one.slug !== bridge);
  return (
    <section aria-labelledby="like" className="sheet">
      <h2 id="like" className="text-lg font-semibold">
        Make it like another
      </h2>
      <p className="mt-1 mb-3 text-faded">What would change is said first. Links that are only here stay.</p>
      <div className="grid gap-4 sm:grid-cols-2">
        <label className="block">
          <span className="mb-1 block font-medium">Bridge</span>
          <select className="field w-full" value={typeof there === "string" ? there : ""} onChange={(event) => choose(event.target.value || null)}>
            <option value="">None</option>
            {others.map((one) => (
              <option key={one.slug} value={one.slug}>
                {one.name}
              </option>
            ))}
          </select>
        </label>
        <label className="block">
          <span className="mb-1 block font-medium">Or a file</span>
          <input type="file" className="field w-full" accept=".json" onChange={(event) => choose(event.target.files?.[0] ?? null)} />
        </label>
      </div>
      {bridges.isError ? <ProblemNote error={bridges.error} again={() => void bridges.refetch()} /> : null}
      {comparing.isPending ? <Loading what="the differences" lines={4} /> : null}
      {comparing.isError ? <ProblemNote error={comparing.error} /> : null}
      {shown && !applying.data ? <Comparison found={shown} /> : null}
      {shown && !applying.data && there && mayApply && shown.differences.length ? (
        <div className="mt-4 space-y-3">
          {shown.missing_count ? (
            <label className="flex items-baseline gap-2">
              <input type="checkbox" checked={leaveMissing} onChange={(event) => setLeaveMissing(event.target.checked)} />
              Without what is not here
            </label>
          ) : null}
          <label className="flex items-baseline gap-2">
            <input type="checkbox" checked={draft} onChange={(event) => setDraft(event.target.checked)} />
            Its rules stay a draft, to be looked at first
          </label>
          <button
            type="button"
            className="button"
            disabled={applying.isPending || (shown.missing_count > 0 && !leaveMissing)}
            onClick={() => applying.mutate(there)}
          >
            {applying.isPending ? "Applying…" : `Apply ${counted(shown.differences.length, "difference")}`}
          </button>
        </div>
      ) : null}
      {applying.isError ? <ProblemNote error={applying.error} /> : null}
      {applying.data ? <Applied bridge={bridge} found={applying.data} draft={draft} /> : null}
    </section>
  );
}

function Comparison({ found }: { found: ConfigurationComparison }) {
  if (!found.missing.length && !found.differences.length) {
    return (
      <p role="status" className="mt-4">
        There is no difference.
      </p>
    );
  }
  return (
    <>
      {found.missing.length ? (
        <>
          <h3 className="mt-4 mb-1 font-sans font-medium text-madder">
            {counted(found.missing_count, "thing")} {found.missing_count === 1 ? "is" : "are"} not here
            {found.missing_count > found.missing.length ? `; the first ${found.missing.length} of them are` : ""}
          </h3>
          <Lines what="What is not here" rows={found.missing} />
        </>
      ) : null}
      {found.differences.length ? (
        <>
          <h3 className="mt-4 mb-1 font-sans font-medium">{counted(found.differences.length, "difference")}</h3>
          <Lines what="What would change" rows={found.differences} />
        </>
      ) : null}
    </>
  );
}

function Lines({ what, rows }: { what: string; rows: { of: string; text: string }[] }) {
  return (
    <div className="overflow-x-auto border border-line">
      <table className="w-full" aria-label={what}>
        <Heads names={["Of", what]} />
        <tbody>
          {rows.map((row, place) => (
            // Two may say the same of different things.
            <tr key={place} className="border-b border-line align-top *:px-3 *:py-1.5">
              <td className="whitespace-nowrap text-faded">{row.of}</td>
              <td className="break-words">{row.text}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Applied({ bridge, found, draft }: { bridge: string; found: ConfigurationComparison; draft: boolean }) {
  const { slug } = useWorkspace();
  return (
    <p role="status" className="mt-4 border-l-4 border-moss pl-3">
      It is applied.{" "}
      {found.rulebook ? (
        <Link className="link" to={`/${slug}/bridges/${bridge}/rules`}>
          Version {found.rulebook} of the rules is {draft ? "a draft" : "in force"}
        </Link>
      ) : (
        "Its rules are those that were in force here."
      )}
    </p>
  );
}
