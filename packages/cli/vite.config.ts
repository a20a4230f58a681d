/** Joins the command line into few files, one for each verb: reading two hundred of them takes longer than most verbs do. */
import { defineConfig } from "vite";

export default defineConfig({
  build: {
    ssr: "src/main.ts",
    outDir: "dist/bundle",
    target: "node20",
    minify: false,
    rolldownOptions: { output: { chunkFileNames: "[name].js" } },
  },
  ssr: { noExternal: true, resolve: { conditions: ["@bold-relay/source", "module", "node", "import"] } },
});
