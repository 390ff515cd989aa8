import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link, useParams } from "react-router";

import { release, spreadQuery } from "../../api/crossings";
import type { Finding, SpreadAnswer } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { StateMark } from "../../parts/StateMark";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { KINDS, ruleInWords } from "../../parts/words";
import { ChooseContact, waitsForContact } from "../holds/ChooseContact";
import { BooksPage } from "./BooksPage";
import { ChangesTable } from "./Changes";
import { Decide } from "./Decide";
import { History } from "./History";
import { type Lit, linked, litBy } from "./links";
import { OnTrial } from "./OnTrial";
import { PointingContext } from "./Point";
import { SourcePage } from "./SourcePage";

/** The two-page spread of one order: the shop on the left, the books on the right, the reason below. */
export function Spread() {
  const { crossing = "" } = useParams();
  const { slug } = useWorkspace();
  const found = useQuery(spreadQuery(slug, crossing));
  useTitle(found.data ? named(found.data) : "Document");
  if (found.isPending) return <Loading what="the document" lines={14} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  return <OpenSpread spread={found.data} />;
}

// A kind that this page has no word for goes by its own name.
const named = (spread: Pick<SpreadAnswer, "kind" | "number">) => `${KINDS[spread.kind] ?? `${spread.kind}:`} ${spread.number}`.trim();

function OpenSpread({ spread }: { spread: SpreadAnswer }) {
  const { slug } = useWorkspace();
  const [pointed, point] = useState<string | null>(null);
  const [pinned, setPinned] = useState<string | null>(null);
  const lit = useMemo(() => litBy(pointed ?? pinned, spread.reasons), [pointed, pinned, spread.reasons]);
  const pointable = useMemo(() => linked(spread.reasons), [spread.reasons]);
  const reason = (at: string) => spread.reasons.find((one) => one.target === at)?.text ?? "";
  const pin = (at: string) => setPinned((before) => (before === at ? null : at));
  return (
    <PointingContext value={{ lit, pointable, point, pin, reason }}>
      <div className="mb-4 flex flex-wrap items-center justify-between gap-3">
        <p>
          <Link className="link" to={`/${slug}/documents`}>
            Documents
          </Link>{" "}
          <span className="text-faded">/</span>{" "}
          <h1 className="inline font-sans text-[15px] font-medium">{named(spread)}</h1>{" "}
          <StateMark state={spread.state} />
        </p>
        <ReleaseButton spread={spread} />
      </div>
      <Decide crossing={spread} />
      <Contact spread={spread} />
      {spread.trial === "sent" ? <OnTrial spread={spread} /> : null}
      <div className="border border-line bg-page shadow-sm lg:grid lg:grid-cols-2">
        <div className="border-line max-lg:border-b lg:border-r lg:shadow-[inset_-14px_0_14px_-14px_rgb(0_0_0/0.18)]">
          <SourcePage spread={spread} />
        </div>
        <div className="lg:shadow-[inset_14px_0_14px_-14px_rgb(0_0_0/0.18)]">
          <BooksPage spread={spread} />
        </div>
      </div>
      {spread.reasons.length ? <Why lit={lit} /> : null}
      <Following spread={spread} />
      <Changes changes={spread.changes} />
      <Findings findings={spread.findings} />
      <History spread={spread} />
      <p className="mt-4 text-xs text-faded">
        Rulebook version {spread.rulebook ?? "–"}
        {spread.links_version ? `; links as of change ${spread.links_version}` : ""}; snapshot {spread.source_checksum.slice(0, 12)}
      </p>
    </PointingContext>
  );
}

/** The contact of a document that waits for it. */
function Contact({ spread }: { spread: SpreadAnswer }) {
  const { may } = useWorkspace();
  if (spread.state !== "held" || !waitsForContact(spread.findings) || !may("operate")) return null;
  return (
    <div className="sheet mb-4">
      <ChooseContact crossing={spread.id} bridge={spread.bridge} done={() => undefined} />
    </div>
  );
}

/** What belongs to it: its refunds, the payouts that its money is in, and their lines at the bank. */
function Following({ spread }: { spread: SpreadAnswer }) {
  const { slug } = useWorkspace();
  if (!spread.following.length) return null;
  return (
    <section aria-labelledby="following" className="sheet mt-5">
      <h2 id="following" className="mb-2 text-lg font-semibold">
        What belongs to it
      </h2>
      <ul>
        {spread.following.map((one) => (
          <li key={one.id} className="flex flex-wrap items-baseline gap-x-4 border-b border-line py-1.5 last:border-0">
            <Link className="link" to={`/${slug}/documents/${one.id}`}>
              {named(one)}
            </Link>
            {one.gross === null ? null : <Amount value={one.gross} currency={one.currency} />}
            <StateMark state={one.state} />
          </li>
        ))}
      </ul>
    </section>
  );
}

function Why({ lit }: { lit: Lit }) {
  return (
    <section aria-label="Reason" aria-live="polite" className="sticky bottom-0 min-h-16 border border-t-0 border-line bg-wash px-6 py-3">
      {lit.reasons.length ? (
        <ul className="space-y-1">
          {lit.reasons.slice(0, 6).map((reason) => (
            <li key={`${reason.target} ${reason.rule}`}>
              {reason.text} <span className="text-sm text-faded">By {ruleInWords(reason.rule)}.</span>
            </li>
          ))}
        </ul>
      ) : (
        <p className="text-faded">Point at a value on either page, or go to it by Tab, to see where it came from or went to.</p>
      )}
    </section>
  );
}

/** What is another at the sales side since the documents were posted, before and after. */
function Changes({ changes }: { changes: SpreadAnswer["changes"] }) {
  if (!changes.length) return null;
  return (
    <section aria-labelledby="changes" className="sheet mt-5">
      <h2 id="changes" className="mb-2 text-lg font-semibold">
        Changed at the sales side since it was posted
      </h2>
      <ChangesTable changes={changes} />
    </section>
  );
}

function Findings({ findings }: { findings: Finding[] }) {
  if (!findings.length) return null;
  return (
    <section aria-labelledby="findings" className="sheet mt-5">
      <h2 id="findings" className="mb-2 text-lg font-semibold">
        Findings
      </h2>
      <ul className="space-y-2">
        {findings.map((finding, place) => (
          <li key={place} className={`border-l-4 pl-3 ${finding.level === "error" ? "border-madder" : "border-line"}`}>
            {finding.text} <span className="text-faded">{finding.hint}</span>{" "}
            <span className="text-xs text-faded">{finding.id}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function ReleaseButton({ spread }: { spread: SpreadAnswer }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const releasing = useMutation({
    mutationFn: () => release(slug, { crossings: [spread.id] }),
    onSuccess: () => queries.invalidateQueries({ queryKey: [slug] }),
  });
  // An order on trial is ended by what stands above it.
  const stopped = ["held", "differs", "left out"].includes(spread.state) && spread.trial !== "sent";
  if (!stopped || !may("operate")) return null;
  return (
    <div className="flex items-center gap-3">
      {releasing.isError ? <ProblemNote error={releasing.error} /> : null}
      <button type="button" className="button" disabled={releasing.isPending} onClick={() => releasing.mutate()}>
        Release
      </button>
    </div>
  );
}
