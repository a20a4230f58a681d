/** `start`: runs the service until a signal. */
import { setFlagsFromString } from "node:v8";
import { startService } from "../instance/instance.ts";
import type { Config } from "../platform/config/config.ts";
import { armFailpoint } from "../platform/failpoint.ts";
import { createLog } from "../platform/log.ts";
import { versionText } from "../platform/version.ts";

export async function start(config: Config): Promise<void> {
  // The young garbage is collected often, and there is little of it: helpers for that cost more than they bring, above all where
  // database and broker want the other cores.
  setFlagsFromString("--no-parallel-scavenge");
  const log = createLog(config.logLevel);
  log.info({ version: versionText, node: process.version }, "starting");
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
