import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";

import { sessionQuery } from "../api/session";
import { ROLES } from "./roles";

const RANK: readonly string[] = ROLES.map(([role]) => role);

/** The workspace in the address, and what one may do there. */
export function useWorkspace() {
  const { workspace = "" } = useParams();
  const { data } = useQuery(sessionQuery);
  const entry = data?.workspaces.find((one) => one.slug === workspace);
  const may = (role: string) => RANK.indexOf(entry?.role ?? "") >= RANK.indexOf(role);
  return { slug: workspace, name: entry?.name ?? workspace, may, known: Boolean(entry) };
}
