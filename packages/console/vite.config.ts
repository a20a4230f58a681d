import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

/** The service that `npm run dev` talks to. */
const service = process.env.BOLD_RELAY_URL ?? "http://127.0.0.1:4180";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: { conditions: ["@bold-relay/source", "module", "browser", "development|production"] },
  build: { target: "es2023", assetsInlineLimit: 0, sourcemap: true },
  server: { proxy: { "/api": service, "/health": service } },
});
