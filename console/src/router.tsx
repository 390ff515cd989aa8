import { QueryClient } from "@tanstack/react-query";
import { createBrowserRouter, Navigate, type RouteObject } from "react-router";

import { Problem } from "./api/http";
import { sessionQuery } from "./api/session";
import { todayQuery } from "./api/today";
import { Entrance } from "./features/signin/Entrance";
import { Failed } from "./parts/Failed";
import { Loading } from "./parts/Loading";
import { NotHere } from "./parts/NotHere";
import { Shell } from "./parts/Shell";

export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      // What was refused stays refused; only silence is worth another try.
      retry: (count, error) => !(error instanceof Problem && error.status >= 400 && error.status < 500) && count < 2,
    },
  },
});

/** A page in a file of its own, which is loaded when somebody goes there; an error stays on its own page. */
const page = (path: string, load: () => Promise<() => React.ReactNode>, more: Partial<RouteObject> = {}): RouteObject =>
  ({
    path,
    lazy: async () => ({ Component: await load() }),
    errorElement: <Failed />,
    hydrateFallbackElement: <Loading what="the page" />,
    ...more,
  }) as RouteObject;

/** Asked for while the page itself is still on its way. */
const session = () => {
  void queries.prefetchQuery(sessionQuery);
  return null;
};

const bases = async () => (await import("./features/bridges/BaseRules")).BaseRules;

/** Every page but the first stands under its workspace. */
export const router = createBrowserRouter([
  { path: "/", element: <Entrance />, errorElement: <Failed /> },
  page("/invitation", async () => (await import("./features/signin/Invitation")).Invitation),
  page("/password", async () => (await import("./features/signin/ForgottenPassword")).ForgottenPassword),
  page("/signed-in", async () => (await import("./features/connections/SignedIn")).SignedIn),
  {
    path: "/:workspace",
    element: <Shell />,
    errorElement: <Failed />,
    hydrateFallbackElement: <Loading what="the console" />,
    loader: session,
    children: [
      { index: true, element: <Navigate to="today" replace /> },
      page("today", async () => (await import("./features/today/Today")).Today, {
        loader: ({ params }) => {
          void queries.prefetchQuery(todayQuery(params.workspace ?? ""));
          return null;
        },
      }),
      page("connections", async () => (await import("./features/connections/Connections")).Connections),
      page("connections/new", async () => (await import("./features/connections/Connect")).Connect),
      page("connections/:connection", async () => (await import("./features/connections/ConnectionPage")).ConnectionPage),
      page("bridges", async () => (await import("./features/bridges/Bridges")).Bridges),
      page("bridges/:bridge", async () => (await import("./features/bridges/BridgePage")).BridgePage),
      page("bridges/:bridge/configuration", async () => (await import("./features/bridges/Configuration")).Configuration),
      page("bridges/:bridge/rules", async () => (await import("./features/bridges/Rules")).Rules),
      page("bridges/:bridge/rehearsal", async () => (await import("./features/rehearsals/RehearsalPage")).RehearsalPage),
      page("bridges/:bridge/proposal", async () => (await import("./features/proposals/ProposalPage")).ProposalPage),
      page("base-rules", bases),
      page("base-rules/:base", bases),
      page("bridges/:bridge/links/:kind", async () => (await import("./features/links/Links")).Links),
      page("account", async () => (await import("./features/account/Account")).Account),
      page("settings", async () => (await import("./features/settings/Settings")).Settings),
      page("holds", async () => (await import("./features/holds/Holds")).Holds),
      page("runs", async () => (await import("./features/runs/Runs")).Runs),
      page("runs/:run", async () => (await import("./features/runs/RunPage")).RunPage),
      page("requests", async () => (await import("./features/requests/Requests")).Requests),
      page("payouts", async () => (await import("./features/payouts/Payouts")).Payouts),
      page("bank", async () => (await import("./features/bank/Bank")).Bank),
      page("clearing", async () => (await import("./features/clearing/Clearing")).Clearing),
      page("tie-out", async () => (await import("./features/tieout/TieOut")).TieOut),
      page("documents", async () => (await import("./features/documents/Documents")).Documents),
      page("documents/:crossing", async () => (await import("./features/spread/Spread")).Spread),
      { path: "*", element: <NotHere /> },
    ],
  },
  { path: "*", element: <NotHere /> },
]);
