import "@fontsource-variable/inter";
import "@fontsource-variable/source-serif-4";
import "./index.css";

import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { RouterProvider } from "react-router";

import { queries, router } from "./router";

// A page that was left open while the service was renewed asks for files that are gone: it is loaded anew, once.
window.addEventListener("vite:preloadError", (event) => {
  if (sessionStorage.getItem("loaded-anew") === window.location.pathname) return;
  sessionStorage.setItem("loaded-anew", window.location.pathname);
  event.preventDefault();
  window.location.reload();
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
