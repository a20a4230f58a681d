import { defineConfig } from "vitest/config";

const conditions = ["@bold-relay/source"];

export default defineConfig({
  ssr: { resolve: { conditions } },
  test: {
    // Most of them wait for a server or for a time to run out: three at once on two cores take half as long as one after the other.
    maxWorkers: 3,
    projects: [
      {
        extends: true,
        // Properties take as long as they take: on a busy machine many times longer than on an idle one.
        test: { name: "core", include: ["packages/{core,api}/test/**/*.test.ts"], testTimeout: 120_000 },
      },
      {
        extends: true,
        test: {
          name: "service",
          include: ["packages/{service,cli,standins,rig,translators}/test/**/*.test.ts"],
          globalSetup: ["packages/rig/src/vitest-setup.ts"],
          testTimeout: 30_000,
          // What waits side by side costs nothing: mostly it waits for times to run out.
          maxConcurrency: 18,
          hookTimeout: 60_000,
        },
      },
      {
        extends: true,
        test: {
          name: "console",
          include: ["packages/console/test/**/*.test.ts"],
          globalSetup: ["packages/rig/src/vitest-setup.ts"],
          testTimeout: 60_000,
          hookTimeout: 90_000,
        },
      },
    ],
  },
});
