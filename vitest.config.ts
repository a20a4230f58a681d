import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    projects: [
      {
        extends: true,
        // Properties take as long as they take: on a busy machine many times longer than on an idle one.
        test: {
          name: "core",
          include: ["packages/{core,api,soak}/test/**/*.test.ts", "packages/console/test/logic/*.test.ts"],
          testTimeout: 120_000,
          maxWorkers: 2,
        },
      },
      {
        extends: true,
        test: {
          name: "service",
          include: ["packages/{service,cli,standins,rig,translators}/test/**/*.test.ts"],
          globalSetup: ["packages/rig/src/vitest-setup.ts"],
          testTimeout: 30_000,
          // Most of them wait for a server or for a time to run out: two files at once take half of the time.
          maxWorkers: 2,
          // What waits side by side costs nothing: mostly it waits for times to run out.
          maxConcurrency: 18,
          hookTimeout: 60_000,
        },
      },
      {
        extends: true,
        test: {
          name: "console",
          // After the others, one at a time: a browser and a service want both cores, and what a person sees must not be late.
          maxWorkers: 1,
          sequence: { groupOrder: 1 },
          include: ["packages/console/test/*.test.ts"],
          globalSetup: ["packages/rig/src/vitest-setup.ts"],
          testTimeout: 60_000,
          hookTimeout: 90_000,
        },
      },
    ],
  },
});
