import { defineConfig } from "vitest/config";

/** The packages as people install them: minutes long, and as root it makes a whole Debian. `npm run test:package` */
export default defineConfig({
  test: {
    name: "package",
    include: ["packaging/test/*.test.ts"],
    globalSetup: ["packaging/test/support/build.ts"],
    testTimeout: 300_000,
    hookTimeout: 300_000,
    fileParallelism: false,
  },
});
