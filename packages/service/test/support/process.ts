/** The service as it is run for real: a process of its own, which a test can kill. */
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { type Client, createClient } from "@bold-relay/api";
import { type Child, eventually, freePort, logTail, SERVER_PROGRAM, startChild } from "@bold-relay/rig";
import type { World } from "./world.ts";

export interface ServiceProcess {
  readonly url: string;
  readonly client: Client;
  child(): Child;
  /** Starts it and waits until it is ready, or has ended. */
  launch(env?: Record<string, string>): Promise<void>;
  isUp(): boolean;
  /** The last lines that it wrote. */
  log(): string;
  /** Stops it, if it runs. */
  end(): Promise<void>;
  /** Ends what runs, and removes its files. */
  stop(): Promise<void>;
}

export async function serviceProcess(world: World): Promise<ServiceProcess> {
  const { config } = world;
  const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-process-"));
  const url = `http://127.0.0.1:${await freePort()}`;
  let child: Child | null = null;
  return {
    url,
    client: createClient({ baseUrl: url, key: world.key }),
    child() {
      if (!child) throw new Error("The service was not launched.");
      return child;
    },
    async launch(env = {}) {
      const started = startChild({
        name: "service",
        command: process.execPath,
        args: [SERVER_PROGRAM, "start"],
        logFile: path.join(folder, "service.log"),
        pidFile: path.join(folder, "service.pid"),
        env: {
          BOLD_RELAY_DATABASE_URL: config.databaseUrl,
          BOLD_RELAY_BROKER_URL: config.brokerUrl,
          BOLD_RELAY_BROKER_USER: config.brokerUser ?? "",
          BOLD_RELAY_BROKER_PASSWORD: config.brokerPassword ?? "",
          BOLD_RELAY_BROKER_CLIENT_ID: config.brokerClientId,
          BOLD_RELAY_PORT: new URL(url).port,
          BOLD_RELAY_MAY_LISTEN: "127.0.0.1:1024-65535",
          ...env,
        },
      });
      child = started;
      const ready = async () => (await fetch(`${url}/health/ready`).catch(() => null))?.ok === true;
      await eventually(ready, 30_000, started.hasEnded);
    },
    log: () => logTail(path.join(folder, "service.log")),
    isUp: () => child !== null && !child.hasEnded(),
    end: async () => child?.stop(),
    async stop() {
      await child?.stop();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
