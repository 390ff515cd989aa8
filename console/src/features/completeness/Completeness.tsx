import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { checkCompleteness, completenessQuery, lackingQuery } from "../../api/completeness";
import { goesOn } from "../../api/rehearsals";
import type { SheetOf } from "../../api/tieout";
import type { BridgeCompleteness, CompletenessCheck, CompletenessResult } from "../../api/types";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { capitalised, counted, day, moment } from "../../parts/words";
import { KindTable, MOST_NAMED, NotTheSame } from "./KindTable";
import { LackingList } from "./LackingList";

interface Props {
  period: SheetOf & { first: string; last: string };
}

/** Whether everything that the sales sides have of these days was read: what they list and count, beside what is here. */
export function Completeness({ period }: Props) {
  const { slug } = useWorkspace();
  const found = useQuery(completenessQuery(slug, period));
  const lacking = useQuery(lackingQuery(slug, period));
  return (
    <section aria-labelledby="completeness" className="sheet">
      <h2 id="completeness" className="mb-1 text-lg font-semibold">
        Completeness
      </h2>
      <p className="mb-3 text-sm text-faded">What the sales side lists and counts of these days, beside what was read. What was never read is fetched by a check.</p>
      {found.isPending ? <Loading what="the checks" lines={3} /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {found.data && !found.data.length ? <p className="text-faded">No bridge carries what the sheet is made of yet.</p> : null}
      <div className="divide-y divide-line">{found.data?.map((one) => <OfBridge key={one.bridge} one={one} period={period} />)}</div>
      {lacking.data?.items.length ? <LackingList rows={lacking.data.items} more={Boolean(lacking.data.next)} /> : null}
      {lacking.isError ? <ProblemNote error={lacking.error} again={() => void lacking.refetch()} /> : null}
    </section>
  );
}

function OfBridge({ one, period }: { one: BridgeCompleteness; period: Props["period"] }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const checking = useMutation({
    mutationFn: () => checkCompleteness(slug, { bridge: one.bridge, first: period.first, last: period.last }),
    onSettled: () => void queries.invalidateQueries({ queryKey: [slug, "completeness"] }),
  });
  const underWay = goesOn(one.under_way ?? undefined);
  const newest = one.check?.id;
  // What a check has fetched counts on the sheet, and what it found lacking keeps a month open.
  useEffect(() => {
    if (newest === undefined) return;
    for (const what of ["tie-out", "months"]) void queries.invalidateQueries({ queryKey: [slug, what] });
    void queries.invalidateQueries({ queryKey: [slug, "completeness", "lacking"] });
  }, [queries, slug, newest]);
  return (
    <section aria-label={one.name} className="py-3 first:pt-0">
      <div className="mb-1 flex flex-wrap items-baseline justify-between gap-x-4 gap-y-1">
        <h3 className="text-base font-semibold">
          {one.name} <Verdict one={one} />
        </h3>
        {may("operate") && !one.why_not ? (
          <button type="button" className="button-quiet print:hidden" disabled={underWay || checking.isPending} onClick={() => checking.mutate()}>
            {underWay ? "Checking…" : "Check now"}
            <span className="sr-only">: {one.name}</span>
          </button>
        ) : null}
      </div>
      <p role="status" className="text-sm text-faded">
        {underWay && one.under_way ? `Reading the lists: ${counted(one.under_way.done, "document")} so far.` : said(one)}
      </p>
      {checking.isError ? <ProblemNote error={checking.error} /> : null}
      {one.check?.result?.kinds.length ? <KindTable kinds={one.check.result.kinds} name={one.name} /> : null}
      {one.check?.result?.kinds.map((kind) => <NotTheSame key={kind.kind} kind={kind} />)}
      {one.check?.result ? <InBooks found={one.check.result.in_books} /> : null}
      {one.check?.result?.not_compared.map((kind) => (
        <p key={kind.kind} className="mt-1 text-sm text-faded">
          {capitalised(kind.kind)} could not be checked: {kind.why}.
        </p>
      ))}
    </section>
  );
}

/** What somebody entered in the books on the accounts of sales; its documents are those behind the sheet. */
function InBooks({ found }: { found: CompletenessResult["in_books"] }) {
  if (found.why_not) return <p className="mt-1 text-sm text-faded">What was entered in the books could not be read: {found.why_not}.</p>;
  const told = [
    found.by_hand ? `${counted(found.by_hand, "document")} entered by hand` : "",
    found.not_posted_here ? `${counted(found.not_posted_here, "document")} under our reference, and not posted from here` : "",
  ].filter(Boolean);
  if (!told.length) return null;
  const named = found.numbers.slice(0, MOST_NAMED).join(", ");
  return (
    <p className="mt-1 text-sm">
      <span className="text-madder">
        In the books, on accounts {found.accounts.join(", ")}: {told.join(", ")}:
      </span>{" "}
      {named}
      {found.numbers.length > MOST_NAMED ? " and more" : ""}
    </p>
  );
}

function Verdict({ one }: { one: BridgeCompleteness }) {
  if (!one.check) return <span className="font-normal text-faded">not checked yet</span>;
  return one.check.complete ? <span className="font-normal text-moss">everything is here</span> : <span className="font-normal text-madder">not complete</span>;
}

/** When it was checked, and by whom; or why it cannot be. */
function said({ check, why_not: whyNot, time_zone: timeZone }: BridgeCompleteness): string {
  const told = check ? checked(check, timeZone) : "";
  return [told, whyNot && `${whyNot}.`].filter(Boolean).join(" ");
}

function checked(check: CompletenessCheck, timeZone: string): string {
  const by = check.asked_by ? `, asked for by ${check.asked_by}` : ", as each day";
  return `${day(check.first)} to ${day(check.last)}, checked ${moment(check.asked_at, timeZone)}${by}.`;
}
