/** Starts the service from the environment. The only place that reads it. */
import { fileURLToPath } from "node:url";
import { setFlagsFromString } from "node:v8";
import { startService } from "./instance/instance.ts";
import { readConfig } from "./platform/config/config.ts";
import { armFailpoint } from "./platform/failpoint.ts";
import { createLog } from "./platform/log.ts";

// The young garbage is collected often, and there is little of it: helpers for that cost more than they bring, above all where
// database and broker want the other cores.
setFlagsFromString("--no-parallel-scavenge");

const BUILT_CONSOLE = fileURLToPath(new URL("../../console/dist", import.meta.url));

async function main(): Promise<void> {
  const config = readConfig({ BOLD_RELAY_CONSOLE_DIR: BUILT_CONSOLE, ...process.env });
  const log = createLog(config.logLevel);
  if (config.failpoint) {
    log.warn({ failpoint: config.failpoint }, "a failpoint is armed: this process will die there");
    armFailpoint(config.failpoint);
  }
  const service = await startService(config, log);
  let stopping = false;
  for (const signal of ["SIGINT", "SIGTERM"] as const) {
    process.on(signal, () => {
      if (stopping) return;
      stopping = true;
      service.stop().then(
        () => process.exit(0),
        (error: unknown) => {
          log.error({ err: error }, "the stop failed");
          process.exit(1);
        },
      );
    });
  }
}

main().catch((error: unknown) => {
  process.stderr.write(`Bold Relay could not start: ${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
});
