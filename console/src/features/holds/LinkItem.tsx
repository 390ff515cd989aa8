import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { bridgeQuery } from "../../api/bridges";
import { type Chosen, previewLinked } from "../../api/holds";
import { answerLink, questionsAboutQuery } from "../../api/links";
import type { Bridge, Freed, HoldGroup } from "../../api/types";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { MendForm } from "./MendForm";
import { PickName } from "./PickName";
import { useMending } from "./useMending";
import { WouldGo } from "./WouldGo";

interface Props {
  group: HoldGroup;
  chosen: Chosen;
  done: (crossings: number[]) => void;
}

/** Linking an article to the item that it is: picked, what that would free is seen, then it is linked and all go. */
export function LinkItem(props: Props) {
  const { slug } = useWorkspace();
  const bridge = useQuery(bridgeQuery(slug, props.group.bridge));
  if (bridge.isPending) return <Loading what="the items" lines={1} />;
  if (bridge.isError) return <ProblemNote error={bridge.error} again={() => void bridge.refetch()} />;
  return <LinkForm {...props} bridge={bridge.data} />;
}

function LinkForm({ group, chosen, done, bridge }: Props & { bridge: Bridge }) {
  const { slug } = useWorkspace();
  const about = useQuery(questionsAboutQuery(slug, bridge.slug, "products", group.value));
  const likeliest = about.data?.find((one) => one.entry.code === group.value)?.suggestions[0];
  // Until somebody types, the likeliest stands there; a kit is linked on the page of links.
  const suggested = likeliest?.targets.length === 1 ? (likeliest.targets[0]?.code ?? "") : "";
  const [typed, setTyped] = useState<string | null>(null);
  const item = typed ?? suggested;
  const [looked, setLooked] = useState<{ item: string; freed: Freed } | null>(null);
  const answer = { key: group.value, targets: [{ id: item.trim(), quantity: "1", share: null }], none: false };
  const looking = useMutation({
    mutationFn: async () => ({ item, freed: await previewLinked(slug, chosen, answer) }),
    onSuccess: setLooked,
  });
  const linking = useMending(chosen, () => answerLink(slug, bridge.slug, "products", answer), done);
  return (
    <MendForm submit={() => looking.mutate()}>
      <div className="flex flex-wrap items-end gap-3">
        <PickName
          label={`Item that ${group.value} is`}
          connection={bridge.books}
          kind="items"
          value={item}
          required
          onChange={(value) => {
            setTyped(value);
            setLooked(null);
          }}
        />
        <button type="submit" className="button-quiet" disabled={looking.isPending || !item.trim()}>
          {looking.isPending ? "Looking…" : "See what it would free"}
        </button>
        {typed === null && likeliest ? <span className="text-sm text-faded">The likeliest: {likeliest.reason}.</span> : null}
      </div>
      {looking.isError ? <ProblemNote error={looking.error} /> : null}
      {looked ? (
        <WouldGo freed={looked.freed}>
          <button type="button" className="button mt-2" disabled={linking.isPending} onClick={() => linking.mutate()}>
            {linking.isPending ? "Linking…" : `Link to ${looked.item}, and let them go`}
          </button>{" "}
          <Link className="link text-sm" to={`/${slug}/bridges/${bridge.slug}/links/products`}>
            A pack, a kit or no item at all: all links
          </Link>
        </WouldGo>
      ) : null}
      {linking.isError ? <ProblemNote error={linking.error} /> : null}
    </MendForm>
  );
}
