import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";

import { adoptAll, bridgeQuery, changeBridge, removeBridge, setupQuery, switchLane } from "../../api/bridges";
import { loadNames } from "../../api/connections";
import type { Bridge, Step } from "../../api/types";
import { PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { Removal } from "../../parts/Removal";
import { StateMark } from "../../parts/StateMark";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { OpeningBalances } from "./OpeningBalances";
import { TryOrder } from "./TryOrder";
import { WhenItRuns } from "./WhenItRuns";

/** One bridge: its set-up in the order of the work, which can be left and taken up again. */
export function BridgePage() {
  const { slug, may } = useWorkspace();
  const { bridge: name = "" } = useParams();
  const found = useQuery(bridgeQuery(slug, name));
  const steps = useQuery(setupQuery(slug, name));
  const adopting = useMutation({ mutationFn: () => adoptAll(slug, name) });
  useTitle(found.data?.name ?? "Bridge");
  if (found.isPending || steps.isPending) return <Loading what="the bridge" lines={12} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  if (steps.isError) return <ProblemNote error={steps.error} again={() => void steps.refetch()} />;
  const done = steps.data.filter((step) => step.state === "done").length;
  return (
    <>
      <PageHead title={found.data.name}>
        <Link className="button-quiet" to={`/${slug}/bridges/${name}/configuration`}>
          Configuration
        </Link>
        {may("operate") ? (
          <button
            type="button"
            className="button-quiet"
            disabled={adopting.isPending}
            onClick={() => adopting.mutate()}
            title="For after a restore from an old backup, before anything else runs"
          >
            Adopt what the books hold
          </button>
        ) : null}
      </PageHead>
      {adopting.isError ? <ProblemNote error={adopting.error} /> : null}
      {adopting.data ? (
        <p role="status" className="mb-4 border-l-4 border-moss pl-3">
          Run {adopting.data.id} goes over everything under our references.{" "}
          <Link className="link" to={`/${slug}/documents?state=adopted`}>
            See what was adopted
          </Link>
        </p>
      ) : null}
      <section aria-labelledby="setup" className="sheet">
        <div className="flex flex-wrap items-baseline justify-between gap-3">
          <h2 id="setup" className="text-lg font-semibold">
            Set-up
          </h2>
          <span className="text-faded">
            {done} of {steps.data.length} done
          </span>
        </div>
        <ol className="mt-2 divide-y divide-line">
          {steps.data.map((step, place) => (
            <StepRow key={step.id} step={step} place={place + 1} bridge={found.data} />
          ))}
        </ol>
      </section>
      <WhenItRuns bridge={found.data} timeZone={found.data.time_zone} />
      {may("own") ? (
        <Removal what="bridge" name={found.data.name} list="bridges" act={(confirm) => removeBridge(slug, name, confirm)} />
      ) : null}
    </>
  );
}

function StepRow({ step, place, bridge }: { step: Step; place: number; bridge: Bridge }) {
  return (
    <li className="grid gap-x-5 gap-y-2 py-3 md:grid-cols-[1.5rem_7rem_1fr_auto]">
      <span className="text-faded tabular-nums">{place}.</span>
      <StateMark state={step.state} />
      <div>
        <h3 className="font-sans font-medium">
          {step.title}
          {step.needed ? null : <span className="font-normal text-faded"> – optional</span>}
        </h3>
        <p className="text-sm">{step.text}</p>
        {step.state === "done" ? null : <p className="text-sm text-faded">{step.why}</p>}
        {step.id === "try" ? <TryOrder bridge={bridge.slug} /> : null}
        {step.id === "opening" && step.state !== "done" && bridge.starts_on ? <OpeningBalances bridge={bridge.slug} /> : null}
      </div>
      <div className="md:text-right">
        <Doing step={step} bridge={bridge} />
      </div>
    </li>
  );
}

/** What leads on from a step: a page, or the thing itself. */
function Doing({ step, bridge }: { step: Step; bridge: Bridge }) {
  const { slug } = useWorkspace();
  const page: Record<string, [string, string]> = {
    "connect-source": [`connections/${bridge.source}`, "Look at it"],
    "connect-books": [`connections/${bridge.books}`, "Look at it"],
    rules: [`bridges/${bridge.slug}/rules`, "Look at the rules"],
    "link-products": [`bridges/${bridge.slug}/links/products`, "Link products"],
    "link-customers": [`bridges/${bridge.slug}/links/customers`, "Link customers"],
  };
  const found = page[step.id];
  if (found) {
    return (
      <Link className="button-quiet" to={`/${slug}/${found[0]}`}>
        {found[1]}
      </Link>
    );
  }
  if (step.id === "load") return <Load bridge={bridge} />;
  if (step.id === "start-date") return <StartDate bridge={bridge} />;
  if (step.id === "lanes") return <Lanes bridge={bridge} />;
  return null;
}

function Load({ bridge }: { bridge: Bridge }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const ends = [bridge.source, bridge.books];
  const loading = useMutation({
    mutationFn: () => Promise.all(ends.map((end) => loadNames(slug, end))),
    onSuccess: () => queries.invalidateQueries({ queryKey: [slug, "connection"] }),
  });
  return (
    <div className="flex flex-wrap gap-2 md:justify-end">
      {may("operate") ? (
        <button type="button" className="button-quiet" disabled={loading.isPending} onClick={() => loading.mutate()}>
          Load both
        </button>
      ) : null}
      {loading.isError ? <ProblemNote error={loading.error} /> : null}
      {loading.data ? (
        <p role="status" className="text-sm">
          Under way:{" "}
          {ends.map((end) => (
            <Link key={end} className="link mr-2" to={`/${slug}/connections/${end}`}>
              {end}
            </Link>
          ))}
        </p>
      ) : null}
    </div>
  );
}

function useChanged(bridge: Bridge) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  return () => queries.invalidateQueries({ queryKey: bridgeQuery(slug, bridge.slug).queryKey });
}

function StartDate({ bridge }: { bridge: Bridge }) {
  const { slug, may } = useWorkspace();
  const changed = useChanged(bridge);
  const [day, setDay] = useState(bridge.starts_on ?? "");
  const dating = useMutation({
    mutationFn: () => changeBridge(slug, bridge.slug, { starts_on: day || null }),
    onSuccess: changed,
  });
  if (!may("edit")) return null;
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        dating.mutate();
      }}
    >
      <label className="block text-left">
        <span className="block text-xs text-faded">First day</span>
        <input type="date" className="field" value={day} onChange={(event) => setDay(event.target.value)} />
      </label>
      <button type="submit" className="button-quiet" disabled={dating.isPending || day === (bridge.starts_on ?? "")}>
        Save
      </button>
      {dating.isError ? <ProblemNote error={dating.error} /> : null}
    </form>
  );
}

/** What the ends cannot do is not offered; one that is on all the same can be switched off. */
const fits = (lane: Bridge["lanes"][number]) => lane.on || !lane.ends_cannot;

function Lanes({ bridge }: { bridge: Bridge }) {
  const { slug, may } = useWorkspace();
  const changed = useChanged(bridge);
  const switching = useMutation({
    mutationFn: ({ kind, on }: { kind: string; on: boolean }) => switchLane(slug, bridge.slug, kind, on),
    onSuccess: changed,
  });
  return (
    <div className="space-y-1">
      {bridge.lanes.filter(fits).map((lane) => (
        <label key={lane.kind} className="flex items-center justify-end gap-2">
          {lane.kind.replaceAll("_", " ")}
          <input
            type="checkbox"
            className="size-4"
            checked={lane.on}
            disabled={!may("edit") || switching.isPending}
            onChange={(event) => switching.mutate({ kind: lane.kind, on: event.target.checked })}
          />
        </label>
      ))}
      {switching.isError ? <ProblemNote error={switching.error} /> : null}
    </div>
  );
}
