import { createBrowserRouter, Navigate } from "react-router";

import { Documents } from "./features/documents/Documents";
import { Entrance } from "./features/signin/Entrance";
import { Spread } from "./features/spread/Spread";
import { Today } from "./features/today/Today";
import { Failed } from "./parts/Failed";
import { NotHere } from "./parts/NotHere";
import { Shell } from "./parts/Shell";

/** Every page but the first stands under its workspace; an error stays on its own page. */
export const router = createBrowserRouter([
  { path: "/", element: <Entrance />, errorElement: <Failed /> },
  {
    path: "/:workspace",
    element: <Shell />,
    errorElement: <Failed />,
    children: [
      { index: true, element: <Navigate to="today" replace /> },
      { path: "today", element: <Today />, errorElement: <Failed /> },
      { path: "documents", element: <Documents />, errorElement: <Failed /> },
      { path: "documents/:crossing", element: <Spread />, errorElement: <Failed /> },
      { path: "*", element: <NotHere /> },
    ],
  },
  { path: "*", element: <NotHere /> },
]);
