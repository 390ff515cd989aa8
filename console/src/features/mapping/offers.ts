import { type QueryClient, useQuery } from "@tanstack/react-query";

import { namesQuery } from "../../api/connections";
import { coverageQuery, goesOn, rehearsalQuery, rehearsalsQuery } from "../../api/rehearsals";
import type { ConditionHits, MetValue, Name, OddOne, Rehearsal, RehearsalHead } from "../../api/types";
import { useWorkspace } from "../../parts/useWorkspace";
import type { Offered } from "./schema";
import { useRules } from "./useEditing";

export interface Offer {
  code: string;
  name: string;
}

/** Which connections stand at the two ends of the rules. */
export interface Ends {
  source: string;
  books: string;
}

const asked = (offered: Offered | undefined, typed: string) => ({ kind: offered?.kind ?? "", q: typed, change: "", cursor: "", limit: 200 });
const endOf = (offered: Offered | undefined, ends: Ends) => (offered?.end === "source" ? ends.source : ends.books);

/** The names of an end that fit, by a part of a code or a name. */
export function useOffers(offered: Offered | undefined, typed: string): Offer[] {
  const { slug } = useWorkspace();
  const { ends } = useRules();
  const end = endOf(offered, ends);
  const found = useQuery({ ...namesQuery(slug, end, asked(offered, typed)), enabled: Boolean(offered && end) });
  return fitting(found.data?.items ?? [], offered);
}

/** The same, asked for once. */
export async function offersOf(queries: QueryClient, workspace: string, ends: Ends, offered: Offered, typed: string): Promise<Offer[]> {
  const end = endOf(offered, ends);
  if (!end) return [];
  return fitting((await queries.fetchQuery({ ...namesQuery(workspace, end, asked(offered, typed)), staleTime: 60_000 })).items, offered);
}

function fitting(names: Name[], offered: Offered | undefined): Offer[] {
  const fits = (type: string | undefined) => !offered?.types || offered.types.includes(type ?? "");
  return names
    .filter((one) => one.code && fits((one.details as Record<string, string>)["type"]))
    .map((one) => ({ code: one.code, name: one.name === one.code ? "" : one.name }));
}

const ASPECTS: Record<string, string> = {
  "/tax_codes/by_class": "tax class",
  "/payments/accounts/by_method": "payment method",
  "/payments/accounts/by_tender": "tender",
  "/payments/accounts/by_gateway": "gateway",
  "/payments/accounts/by_brand": "card brand",
  "/orders/statuses": "order status",
  "/customers/languages": "language",
  "/customers/groups": "customer group",
  "/customers/terms": "payment terms",
};
const LEVELS: Record<string, string> = {
  by_tag: "tag",
  by_attribute: "attribute",
  by_product: "product",
  by_product_type: "product type",
  by_customer_group: "customer group",
  by_location: "location",
  by_channel: "channel",
  by_country: "country",
  by_treatment: "tax treatment",
};

/** The newest rehearsal of a bridge that has ended. */
function useNewest(bridge: string, enabled: boolean): RehearsalHead | undefined {
  const { slug } = useWorkspace();
  const past = useQuery({ ...rehearsalsQuery(slug, bridge), enabled });
  return past.data?.items.find((one) => !goesOn(one) && one.state === "ended");
}

/** What the newest rehearsal that has ended came to. */
function useLastRehearsal(bridge: string): Rehearsal | undefined {
  const { slug } = useWorkspace();
  const newest = useNewest(bridge, Boolean(bridge));
  const found = useQuery({ ...rehearsalQuery(slug, newest?.id ?? 0), enabled: Boolean(newest) });
  return found.data;
}

/** One order of each kind that the rules treat differently, as the newest rehearsal found them. */
export const useOddOnes = (bridge: string): OddOne[] => useLastRehearsal(bridge)?.odd_ones ?? [];

/** How many orders of the newest rehearsal an expression was true of; nothing where it was not among its rules. */
export function useHits(expression: string): ConditionHits | undefined {
  const { bridge } = useRules();
  return useLastRehearsal(bridge)?.conditions.find((one) => one.expression === expression);
}

/** What orders hold of the values that a table is keyed by, from the newest rehearsal that has ended. */
export function useMet(at: string): MetValue[] {
  const { slug } = useWorkspace();
  const { bridge } = useRules();
  const aspect = ASPECTS[at] ?? LEVELS[at.split("/").at(-1) ?? ""];
  const newest = useNewest(bridge, Boolean(aspect && bridge));
  const found = useQuery({ ...coverageQuery(slug, newest?.id ?? 0), enabled: Boolean(newest) });
  return (found.data ?? []).filter((one) => one.aspect === aspect);
}
