import { createBrowserRouter, Navigate } from "react-router";

import { BaseRules } from "./features/bridges/BaseRules";
import { BridgePage } from "./features/bridges/BridgePage";
import { Bridges } from "./features/bridges/Bridges";
import { Rules } from "./features/bridges/Rules";
import { Connect } from "./features/connections/Connect";
import { ConnectionPage } from "./features/connections/ConnectionPage";
import { Connections } from "./features/connections/Connections";
import { SignedIn } from "./features/connections/SignedIn";
import { Documents } from "./features/documents/Documents";
import { Links } from "./features/links/Links";
import { Settings } from "./features/settings/Settings";
import { Entrance } from "./features/signin/Entrance";
import { Spread } from "./features/spread/Spread";
import { Today } from "./features/today/Today";
import { Failed } from "./parts/Failed";
import { NotHere } from "./parts/NotHere";
import { Shell } from "./parts/Shell";

/** Every page but the first stands under its workspace; an error stays on its own page. */
export const router = createBrowserRouter([
  { path: "/", element: <Entrance />, errorElement: <Failed /> },
  { path: "/signed-in", element: <SignedIn />, errorElement: <Failed /> },
  {
    path: "/:workspace",
    element: <Shell />,
    errorElement: <Failed />,
    children: [
      { index: true, element: <Navigate to="today" replace /> },
      { path: "today", element: <Today />, errorElement: <Failed /> },
      { path: "connections", element: <Connections />, errorElement: <Failed /> },
      { path: "connections/new", element: <Connect />, errorElement: <Failed /> },
      { path: "connections/:connection", element: <ConnectionPage />, errorElement: <Failed /> },
      { path: "bridges", element: <Bridges />, errorElement: <Failed /> },
      { path: "bridges/:bridge", element: <BridgePage />, errorElement: <Failed /> },
      { path: "bridges/:bridge/rules", element: <Rules />, errorElement: <Failed /> },
      { path: "base-rules", element: <BaseRules />, errorElement: <Failed /> },
      { path: "base-rules/:base", element: <BaseRules />, errorElement: <Failed /> },
      { path: "bridges/:bridge/links/:kind", element: <Links />, errorElement: <Failed /> },
      { path: "settings", element: <Settings />, errorElement: <Failed /> },
      { path: "documents", element: <Documents />, errorElement: <Failed /> },
      { path: "documents/:crossing", element: <Spread />, errorElement: <Failed /> },
      { path: "*", element: <NotHere /> },
    ],
  },
  { path: "*", element: <NotHere /> },
]);
