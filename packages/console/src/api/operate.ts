/** The calls that the Board and what stands around every page need, and the names under which the cache keeps what was read. */
import { createOperateClient } from "@bold-relay/api";

/** The console lives at the service's own address and has a session cookie. */
export const operate = createOperateClient({ baseUrl: "" });

export const names = {
  session: ["session"],
  account: ["account"],
  board: ["board"],
  status: ["status"],
  devices: ["devices"],
  sites: ["sites"],
  versions: ["versions"],
  commissionings: (device: string) => ["devices", device],
  log: ["log"],
  trace: (request: string) => ["trace", request],
  day: (channel: string) => ["day", channel],
  alerts: ["alerts"],
  statistics: ["statistics"],
  inlets: ["inlets"],
  map: ["map"],
  notifications: ["notifications"],
  team: ["team"],
} as const;
