import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams, useSearchParams } from "react-router";

import { rulesVersionsQuery } from "../../api/bridges";
import { cancelRehearsal, goesOn, rehearsalQuery, rehearsalsQuery, rehearse } from "../../api/rehearsals";
import type { Rehearsal, RehearsalHead, RulebookHead } from "../../api/types";
import { AskedWorkPage } from "../../parts/AskedWorkPage";
import { AskPeriod } from "../../parts/AskPeriod";
import { Empty } from "../../parts/Empty";
import { Labelled } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { UnderWay } from "../../parts/UnderWay";
import { useAskedWork } from "../../parts/useAskedWork";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { WorkList } from "../../parts/WorkList";
import { counted, day } from "../../parts/words";
import { ChangedDocuments } from "./ChangedDocuments";
import { Coverage } from "./Coverage";
import { Totals } from "./Totals";

/** Past documents under a version of the rules: what would change, and what the rules cover. Nothing is sent. */
export function RehearsalPage() {
  const { slug } = useWorkspace();
  const { bridge = "" } = useParams();
  const [address, setAddress] = useSearchParams();
  useTitle("Rehearsal");
  const versions = useQuery(rulesVersionsQuery(slug, bridge));
  const past = useQuery(rehearsalsQuery(slug, bridge));
  if (versions.isPending || past.isPending) return <Loading what="the rehearsals" lines={8} />;
  const failed = versions.error ?? past.error;
  if (failed) return <ProblemNote error={failed} again={() => void Promise.all([versions.refetch(), past.refetch()])} />;
  const shown = Number(address.get("of")) || past.data?.items[0]?.id || null;
  const show = (number: number) => setAddress({ of: String(number) });
  return (
    <AskedWorkPage
      title="Rehearsal"
      bridge={bridge}
      side={
        <>
          <Ask bridge={bridge} versions={versions.data?.items ?? []} show={show} />
          <WorkList title="Rehearsals" works={(past.data?.items ?? []).map(listed)} shown={shown} show={show} />
        </>
      }
    >
      {shown ? (
        <One key={shown} bridge={bridge} number={shown} />
      ) : (
        <Empty title="Nothing was rehearsed yet">
          A rehearsal goes over the orders and refunds of a period, and says what each becomes under a version of the
          rules. Nothing is sent, and nothing of a document changes.
        </Empty>
      )}
    </AskedWorkPage>
  );
}

function Ask({ bridge, versions, show }: { bridge: string; versions: RulebookHead[]; show: (number: number) => void }) {
  const { slug, may } = useWorkspace();
  const [rulebook, setRulebook] = useState(String(versions[0]?.number ?? ""));
  if (may("operate") && !versions.length) return <Empty title="There are no rules yet">Write them first.</Empty>;
  return (
    <AskPeriod
      title="Rehearse"
      does="Rehearse"
      ask={(days) => rehearse(slug, bridge, { rulebook: Number(rulebook), ...days })}
      list={rehearsalsQuery(slug, bridge).queryKey}
      show={show}
      before={
        <Labelled
          label="Version of the rules"
          value={rulebook}
          onChange={setRulebook}
          required
          options={versions.map((one) => [String(one.number), `${one.number}${one.published_at ? "" : ", a draft"}`] as const)}
        />
      }
    />
  );
}

const period = (one: Pick<RehearsalHead, "first" | "last">) => `${day(one.first)} to ${day(one.last)}`;

const listed = (one: RehearsalHead) => ({
  id: one.id,
  name: `Version ${one.rulebook}, ${period(one)}`,
  said: one.state === "ended" ? `${counted(one.changed, "change")} in ${counted(one.done, "document")}` : one.state,
});

function One({ bridge, number }: { bridge: string; number: number }) {
  const { slug } = useWorkspace();
  const { work: found, cancelling } = useAskedWork(rehearsalQuery(slug, number), rehearsalsQuery(slug, bridge).queryKey, () => cancelRehearsal(slug, number));
  if (found.isPending) return <Loading what="the rehearsal" lines={6} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  const one = found.data;
  if (goesOn(one)) {
    return (
      <UnderWay
        said={`${one.done} of ${counted(one.total ?? 0, "document")}, ${one.changed} would change so far`}
        label="Documents rehearsed"
        total={one.total}
        done={one.done}
        onCancel={() => cancelling.mutate()}
        cancelling={cancelling.isPending}
        error={cancelling.error}
      />
    );
  }
  if (one.state !== "ended") {
    return (
      <Empty title={one.state === "cancelled" ? "This one was cancelled" : "This one failed"}>
        {one.trouble || `It had come to ${counted(one.done, "document")}.`}
      </Empty>
    );
  }
  return <Ended bridge={bridge} one={one} />;
}

const VIEWS = [
  ["changes", "What changes"],
  ["totals", "Totals"],
  ["coverage", "Coverage"],
] as const;

function Ended({ bridge, one }: { bridge: string; one: Rehearsal }) {
  const [view, setView] = useState<(typeof VIEWS)[number][0]>(one.since === null ? "coverage" : "changes");
  const since = one.since === null ? "" : ` beside version ${one.since}`;
  return (
    <div className="min-w-0 space-y-5">
      <section aria-label="What it came to" className="sheet">
        <p role="status" className="text-lg">
          Version {one.rulebook}
          {since}, {period(one)}: <strong>{one.changed ? counted(one.changed, "document") : "nothing"}</strong> of {one.done} would
          change.
        </p>
        <ul className="mt-2 space-y-1">
          {one.outcomes
            .filter((count) => count.before !== count.after)
            .map((count) => (
              <li key={count.before + count.after}>
                {count.count} would be {ENDING[count.after]}, {count.count === 1 ? "which is" : "which are"} {ENDING[count.before]} now
              </li>
            ))}
          {one.findings.map((finding) => (
            <li key={finding.id + finding.level} className="text-sm">
              {finding.came ? `Comes on ${finding.came}` : ""}
              {finding.came && finding.went ? ", " : ""}
              {finding.went ? `${finding.came ? "goes" : "Goes"} on ${finding.went}` : ""}: {finding.text}
            </li>
          ))}
        </ul>
        <div role="group" aria-label="Views" className="mt-4 flex flex-wrap gap-2">
          {VIEWS.map(([name, text]) => (
            <button key={name} type="button" className={name === view ? "button" : "button-quiet"} aria-pressed={name === view} onClick={() => setView(name)}>
              {text}
            </button>
          ))}
        </div>
      </section>
      {view === "changes" ? <ChangedDocuments rehearsal={one} /> : null}
      {view === "totals" ? <Totals rehearsal={one} /> : null}
      {view === "coverage" ? <Coverage bridge={bridge} rehearsal={one} /> : null}
    </div>
  );
}

const ENDING: Record<string, string> = { carry: "carried", hold: "held", "left out": "left out" };
