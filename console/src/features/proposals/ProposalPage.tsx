import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";

import { writeRules } from "../../api/bridges";
import { cancelProposal, examplesAddress, proposalQuery, proposalsQuery, propose } from "../../api/proposals";
import { goesOn } from "../../api/rehearsals";
import type { Proposal, ProposalHead } from "../../api/types";
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
import { Learnt } from "./Learnt";

/** Rules learnt from past orders and what somebody entered into the books for them. Both ends are only read. */
export function ProposalPage() {
  const { slug } = useWorkspace();
  const { bridge = "" } = useParams();
  const [address, setAddress] = useSearchParams();
  useTitle("Rules from the books");
  const past = useQuery(proposalsQuery(slug, bridge));
  if (past.isPending) return <Loading what="the proposals" lines={8} />;
  if (past.isError) return <ProblemNote error={past.error} again={() => void past.refetch()} />;
  const shown = Number(address.get("of")) || past.data.items[0]?.id || null;
  const show = (number: number) => setAddress({ of: String(number) });
  return (
    <AskedWorkPage
      title="Rules from the books"
      bridge={bridge}
      side={
        <>
          <Ask bridge={bridge} show={show} />
          <WorkList title="Proposals" works={past.data.items.map(listed)} shown={shown} show={show} />
        </>
      }
    >
      {shown ? (
        <One key={shown} bridge={bridge} number={shown} />
      ) : (
        <Empty title="Nothing was learnt yet">
          Where somebody entered past orders into the books, by hand or with another program, the rules that they
          followed can be learnt from what stands there. Both ends are only read.
        </Empty>
      )}
    </AskedWorkPage>
  );
}

function Ask({ bridge, show }: { bridge: string; show: (number: number) => void }) {
  const { slug } = useWorkspace();
  const [least, setLeast] = useState("2");
  return (
    <AskPeriod
      title="Learn"
      does="Learn from these orders"
      from="Orders from"
      ask={(days) => propose(slug, bridge, { least: Number(least), ...days })}
      list={proposalsQuery(slug, bridge).queryKey}
      show={show}
    >
      <Labelled
        label="Examples a rule must have"
        type="number"
        value={least}
        onChange={setLeast}
        required
        hint="What fewer orders share is named as an exception."
      />
    </AskPeriod>
  );
}

const period = (one: Pick<ProposalHead, "first" | "last">) => `${day(one.first)} to ${day(one.last)}`;

const listed = (one: ProposalHead) => ({
  id: one.id,
  name: period(one),
  said: one.state === "ended" ? `explains ${one.explained} of ${one.examples}` : one.state,
});

function One({ bridge, number }: { bridge: string; number: number }) {
  const { slug } = useWorkspace();
  const { work: found, cancelling } = useAskedWork(proposalQuery(slug, number), proposalsQuery(slug, bridge).queryKey, () => cancelProposal(slug, number));
  if (found.isPending) return <Loading what="the proposal" lines={6} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  const one = found.data;
  if (goesOn(one)) {
    const orders = Math.ceil((one.total ?? 0) / 3);
    return (
      <UnderWay
        said={one.done < orders ? `Reading ${counted(orders, "order")} and what the books hold for them` : `Learning from ${counted(orders, "order")}`}
        label="Orders gone over"
        total={one.total}
        done={one.done}
        onCancel={() => cancelling.mutate()}
        cancelling={cancelling.isPending}
        error={cancelling.error}
      />
    );
  }
  if (one.state !== "ended") {
    return <Empty title={one.state === "cancelled" ? "This one was cancelled" : "Nothing was learnt"}>{one.trouble || "Nothing changed."}</Empty>;
  }
  return <Ended bridge={bridge} one={one} />;
}

function Ended({ bridge, one }: { bridge: string; one: Proposal }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const keeping = useMutation({
    mutationFn: () => writeRules(slug, bridge, one.text),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [slug, "bridge", bridge] });
      await navigate(`/${slug}/bridges/${bridge}/rules`);
    },
  });
  return (
    <div className="min-w-0 space-y-5">
      <section aria-label="What it came to" className="sheet">
        <p role="status" className="text-lg">
          These rules explain <strong>{one.explained}</strong> of {counted(one.examples ?? 0, "order")}, {period(one)}.
        </p>
        {one.unread ? (
          <p className="text-sm text-faded">{counted(one.unread, "document")} of the books could not be understood, and taught nothing.</p>
        ) : null}
        <div className="mt-3 flex flex-wrap items-center gap-3">
          {may("edit") ? (
            <button type="button" className="button" disabled={keeping.isPending} onClick={() => keeping.mutate()}>
              {keeping.isPending ? "Saving…" : "Save as a draft"}
            </button>
          ) : null}
          <a className="link" href={examplesAddress(slug, one.id)} download>
            Download the examples
          </a>
        </div>
        {keeping.isError ? <ProblemNote error={keeping.error} /> : null}
      </section>
      <Learnt proposal={one} />
    </div>
  );
}
