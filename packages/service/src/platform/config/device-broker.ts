/** Where devices reach the broker, and what they must trust there: told with each broker user that is made. */
import { readFile } from "node:fs/promises";
import type { Config } from "./config.ts";

export interface DeviceBroker {
  /** mqtt:// or mqtts:// */
  readonly url: string;
  /** PEM; null: the service does not know any. */
  readonly ca: string | null;
}

/** @returns null when the settings do not say */
export async function deviceBroker({ deviceBrokerUrl, deviceBrokerCaFile }: Config): Promise<DeviceBroker | null> {
  if (deviceBrokerUrl === undefined) return null;
  // A file that cannot be read is `check`'s to tell: the user was made, and its password must be told now.
  const ca = deviceBrokerCaFile === undefined ? null : await readFile(deviceBrokerCaFile, "utf8").catch(() => null);
  return { url: deviceBrokerUrl, ca };
}
