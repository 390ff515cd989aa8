import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";

import { withQuery } from "../../api/http";
import { type Chosen, holdsQuery } from "../../api/holds";
import type { HoldGroup } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { Empty } from "../../parts/Empty";
import { PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted, day } from "../../parts/words";
import { ChooseContact, waitsForContact } from "./ChooseContact";
import { Followed } from "./Followed";
import { LinkItem } from "./LinkItem";
import { MapValue } from "./MapValue";
import { Release } from "./Release";

/** What waits for a person, by cause and by the value that is to blame: mended here, and let go. */
export function Holds() {
  useTitle("Holds");
  const { slug } = useWorkspace();
  const [query, setQuery] = useSearchParams();
  const filters = { bridge: query.get("bridge") ?? "", cause: query.get("cause") ?? "", kind: query.get("kind") ?? "" };
  const found = useQuery(holdsQuery(slug, filters));
  const [followed, follow] = useState<{ title: string; crossings: number[] } | null>(null);
  const narrowed = Object.values(filters).some(Boolean);
  return (
    <>
      <PageHead title="Holds">
        {narrowed ? (
          <button type="button" className="button-quiet" onClick={() => setQuery({})}>
            Show all
          </button>
        ) : null}
      </PageHead>
      {followed ? <Followed key={followed.crossings.join()} {...followed} /> : null}
      {found.isPending ? <Loading what="the holds" lines={8} /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {found.data?.length === 0 ? (
        <Empty title={narrowed ? "Nothing is held by this any more" : "Nothing is held"}>
          {narrowed ? "Show all to see whether anything else is." : "Every document found its place."}
        </Empty>
      ) : null}
      <ul className="space-y-5">
        {found.data?.map((group) => (
          <li key={[group.bridge, group.lane, group.state, group.cause, group.value].join("|")}>
            <GroupSheet group={group} follow={follow} />
          </li>
        ))}
      </ul>
    </>
  );
}

interface GroupProps {
  group: HoldGroup;
  follow: (followed: { title: string; crossings: number[] }) => void;
}

function GroupSheet({ group, follow }: GroupProps) {
  const { slug, may } = useWorkspace();
  const title = group.value ? `${group.aspect} ${group.value}` : group.cause_in_words;
  const chosen: Chosen = { bridge: group.bridge, cause: group.cause, kind: group.lane, value: group.value };
  const list = withQuery(`/${slug}/documents`, { state: [group.state], cause: group.cause, bridge: group.bridge });
  const done = (crossings: number[]) => follow({ title, crossings });
  return (
    <section aria-label={title} className="sheet">
      <div className="flex flex-wrap items-baseline justify-between gap-x-5 gap-y-1">
        <h2 className="text-lg font-semibold first-letter:uppercase">{title}</h2>
        <p className="flex flex-wrap items-baseline gap-x-5">
          <Link className="link" to={list}>
            {counted(group.count, group.lane.replace(/s$/, "") || "document")}
          </Link>
          {Object.entries(group.amounts).map(([currency, amount]) => (
            <Amount key={currency} value={amount as string} currency={currency} />
          ))}
        </p>
      </div>
      <p className="text-sm text-faded">
        {group.value ? <><span className="inline-block first-letter:uppercase">{group.cause_in_words}.</span> </> : null}
        {group.bridge_name}; the oldest is{" "}
        <Link className="link" to={`/${slug}/documents/${group.oldest.id}`}>
          {group.oldest.number}
        </Link>
        {group.oldest.placed_at ? `, placed on ${day(group.oldest.placed_at)}` : ""}.
      </p>
      {group.finding.text ? (
        <p className="mt-2">
          {group.finding.text} <span className="text-faded">{group.finding.hint}</span>
        </p>
      ) : null}
      {may("operate") && waitsForContact([group.finding]) ? (
        <ChooseContact crossing={group.oldest.id} bridge={group.bridge} done={done} />
      ) : null}
      {group.mapped_at && may("edit") ? (
        <MapValue group={group} chosen={chosen} done={done} />
      ) : group.linked_as && may("operate") ? (
        <LinkItem group={group} chosen={chosen} done={done} />
      ) : may("operate") ? (
        <Release chosen={chosen} done={done} />
      ) : null}
    </section>
  );
}
