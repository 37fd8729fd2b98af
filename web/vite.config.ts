import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { handbook } from "./handbook";
import { packed } from "./packed";

// The note in dist/ is kept in git, so the folder is not emptied here; the
// build script removes the old assets first.
export default defineConfig({
  plugins: [react(), handbook(), packed()],
  build: { emptyOutDir: false, assetsInlineLimit: 0, modulePreload: { polyfill: false } },
  server: { proxy: { "/api": "http://127.0.0.1:8414" } },
});
