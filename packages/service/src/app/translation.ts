/** Translators inside the service's own process: to everybody, the service too, they are devices like any other. */
import type { Plan } from "@bold-relay/translators";
import type { TranslatorHost } from "@bold-relay/translators/host";
import type { Log } from "../platform/log.ts";

export interface Translation {
  /** Switches off what runs for a while only, and leaves the broker. */
  stop(): Promise<void>;
}

/** @throws Error that names the file and every mistake in it */
export async function translationPlan(file: string | undefined): Promise<Plan | null> {
  return file === undefined ? null : (await loadHost()).readPlan(file);
}

/** Only where there are translators: it brings an MQTT client of its own. */
const loadHost = () => import("@bold-relay/translators/host");

/**
 * Starts the translators of a plan; whoever cannot reach the broker yet goes on trying. Only the instance that holds the lanes
 * has them: two would both tell the device.
 */
export function startTranslation(plan: Plan | null, log: Log): Translation {
  if (plan === null) return { stop: async () => {} };
  let stopped = false;
  const begun = loadHost().then(({ startTranslatorHost }) => startTranslatorHost(plan, (line) => log.info(line)));
  const started: Promise<TranslatorHost | null> = begun.then(
    (host) => {
      log.info({ devices: plan.devices.length, mailbox: host.mailboxPort }, "translators are on the broker");
      return host;
    },
    (error: unknown) => {
      log.error({ err: error }, "the translators could not be started");
      return null;
    },
  );
  return {
    async stop() {
      if (stopped) return;
      stopped = true;
      // One that never reached the broker is not waited for.
      const host = await Promise.race([started, new Promise<null>((resolve) => setImmediate(resolve, null))]);
      await host?.stop();
      if (host === null) void started.then((late) => late?.stop());
    },
  };
}
