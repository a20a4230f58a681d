/** Joins the command line into few files, one for each verb: reading two hundred of them takes longer than most verbs do. */
import { defineConfig } from "vite";

export default defineConfig({
  build: {
    ssr: "src/main.ts",
    outDir: "dist/bundle",
    target: "node24",
    minify: false,
    rolldownOptions: { output: { chunkFileNames: "[name].js" } },
  },
  ssr: { noExternal: true, resolve: { conditions: ["module", "node", "import"] } },
});
