/** `start`: runs the service until a signal. */
import { startService } from "../instance/start-service.ts";
import type { Config } from "../platform/config/config.ts";
import { armFailpoint } from "../platform/failpoint.ts";
import { createLog } from "../platform/log.ts";
import { boundMemory, giveBackWhenIdle } from "../platform/memory.ts";
import { versionText } from "../platform/version.ts";

export async function start(config: Config): Promise<void> {
  boundMemory();
  const log = createLog(config.logLevel);
  log.info({ version: versionText, node: process.version }, "starting");
  if (config.failpoint) {
    log.warn({ failpoint: config.failpoint }, "a failpoint is armed: this process will die there");
    armFailpoint(config.failpoint);
  }
  const service = await startService(config, log);
  giveBackWhenIdle(log);
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
