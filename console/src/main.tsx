import "@fontsource-variable/inter";
import "@fontsource-variable/source-serif-4";
import "./index.css";

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { RouterProvider } from "react-router";

import { Problem } from "./api/http";
import { router } from "./router";

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      // What was refused stays refused; only silence is worth another try.
      retry: (count, error) => !(error instanceof Problem && error.status >= 400 && error.status < 500) && count < 2,
    },
  },
});

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  );
}
