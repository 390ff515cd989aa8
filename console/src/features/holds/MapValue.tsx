import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { Link } from "react-router";

import { bridgeQuery, publishRules, rulesQuery, writeRules } from "../../api/bridges";
import { namesQuery } from "../../api/connections";
import { type Chosen, previewHolds } from "../../api/holds";
import { editRules } from "../../api/rehearsals";
import type { Bridge, Freed, HoldGroup } from "../../api/types";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";
import { setting } from "../rehearsals/setting";
import { MendForm } from "./MendForm";
import { useMending } from "./useMending";
import { WouldGo } from "./WouldGo";

interface Props {
  group: HoldGroup;
  chosen: Chosen;
  done: (crossings: number[]) => void;
}

/** Mapping a value in place: a code is picked, what it would free is seen, then the rules are published and all go. */
export function MapValue({ group, chosen, done }: Props) {
  const { slug } = useWorkspace();
  const bridge = useQuery(bridgeQuery(slug, group.bridge));
  if (bridge.isPending) return <Loading what="the rules" lines={1} />;
  if (bridge.isError) return <ProblemNote error={bridge.error} again={() => void bridge.refetch()} />;
  return <MapForm group={group} chosen={chosen} done={done} bridge={bridge.data} />;
}

function MapForm({ group, chosen, done, bridge }: Props & { bridge: Bridge }) {
  const { slug, may } = useWorkspace();
  const queries = useQueryClient();
  const id = useId();
  const [code, setCode] = useState(group.suggestion?.value ?? "");
  const [looked, setLooked] = useState<{ code: string; freed: Freed } | null>(null);
  const kind = group.mapped_at.startsWith("/tax_codes") ? "tax-codes" : "accounts";
  const offers = useQuery(namesQuery(slug, bridge.books, { kind, q: "", change: "", cursor: "", limit: 200 }));
  const name = offers.data?.items.find((one) => one.code === code)?.name;
  // Asked for each time: another value may have been mapped since, here or by somebody else, and is not to be undone.
  const mapped = async () => {
    const { rulebook_in_force } = await queries.fetchQuery({ ...bridgeQuery(slug, bridge.slug), staleTime: 0 });
    const version = await queries.fetchQuery(rulesQuery(slug, bridge.slug, rulebook_in_force ?? 0));
    const { values } = await editRules(slug, bridge.slug, version.text, []);
    return (await editRules(slug, bridge.slug, version.text, [setting(values, group.mapped_at, code)])).text;
  };
  const looking = useMutation({
    mutationFn: async () => ({ code, freed: await previewHolds(slug, chosen, await mapped()) }),
    onSuccess: setLooked,
  });
  const published = async () => {
    const draft = await writeRules(slug, bridge.slug, await mapped());
    return publishRules(slug, bridge.slug, draft.number, `${group.aspect} ${group.value} is ${code}`);
  };
  const mending = useMending(chosen, published, done);
  return (
    <MendForm submit={() => looking.mutate()}>
      <div className="flex flex-wrap items-end gap-3">
        <label>
          <span className="block font-medium">
            {kind === "tax-codes" ? "Tax code" : "Account"} for {group.value}
          </span>
          <input
            className="field w-52"
            list={id}
            value={code}
            required
            spellCheck={false}
            autoComplete="off"
            onChange={(event) => {
              setCode(event.target.value);
              setLooked(null);
            }}
          />
          <datalist id={id}>
            {offers.data?.items.map((one) => (
              <option key={one.id} value={one.code}>
                {one.name}
              </option>
            ))}
          </datalist>
        </label>
        <button type="submit" className="button-quiet" disabled={looking.isPending || !code.trim()}>
          {looking.isPending ? "Looking…" : "See what it would free"}
        </button>
        <span className="text-sm text-faded">{name ?? (code === group.suggestion?.value ? group.suggestion.why : "")}</span>
      </div>
      {looking.isError ? <ProblemNote error={looking.error} /> : null}
      {looked ? (
        <WouldGo freed={looked.freed}>
          {may("publish") ? (
            <button type="button" className="button mt-2" disabled={mending.isPending} onClick={() => mending.mutate()}>
              {mending.isPending ? "Publishing…" : `Publish ${looked.code}, and let them go`}
            </button>
          ) : (
            <p className="text-sm text-faded">Whoever may publish rules can put this in force.</p>
          )}{" "}
          <Link className="link text-sm" to={`/${slug}/bridges/${bridge.slug}/rules`}>
            Look at all rules
          </Link>
        </WouldGo>
      ) : null}
      {mending.isError ? <ProblemNote error={mending.error} /> : null}
    </MendForm>
  );
}
