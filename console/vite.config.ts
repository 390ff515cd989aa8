import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // The content policy allows fonts and pictures from the service alone, so nothing is inlined.
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 800, modulePreload: { polyfill: false } },
  server: { proxy: { "/api": "http://127.0.0.1:8642" } },
});
