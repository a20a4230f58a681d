/** Which of the demo's own stand-ins do not come online, and why. Devices that a reader has added are not its concern. */
import type { Client } from "@bold-relay/api";
import type { Child } from "../child.ts";
import { eventually } from "../port.ts";
import type { DemoBoard } from "./world.ts";

export interface MissingStandIn {
  /** site/device */
  readonly address: string;
  readonly why: string;
}

/** From the start of the service on; a board needs half a second. */
const WITHIN_MS = 30_000;
/** Once the stand-in itself knows why it cannot connect, waiting longer helps nobody. */
const TROUBLED_WITHIN_MS = 5_000;

/** @param child the process of the stand-ins; @param controlPort where they tell how they are */
export async function missingStandIns(
  client: Client,
  boards: readonly DemoBoard[],
  controlPort: number,
  child: Child,
): Promise<MissingStandIn[]> {
  const own = new Set(boards.map(({ site, device }) => `${site}/${device}`));
  const absent = async () => {
    const { sites } = await client.board();
    const devices = sites.flatMap((site) => site.channels.map((channel) => channel.device));
    const away = devices.filter(({ address, presence }) => own.has(address) && presence !== "online");
    // What its profile does not let anybody know is not waited for.
    return new Set(away.filter(({ presence }) => presence !== "not-watched").map(({ address }) => address));
  };
  const startedAt = performance.now();
  const isSettled = async () => {
    const away = await absent();
    if (away.size === 0) return true;
    if (performance.now() - startedAt < TROUBLED_WITHIN_MS) return false;
    const troubles = await troublesAt(controlPort);
    return [...away].every((address) => troubles.has(address));
  };
  await eventually(isSettled, WITHIN_MS, child.hasEnded);
  const away = await absent();
  if (away.size === 0) return [];
  const troubles = await troublesAt(controlPort);
  const whyOf = (address: string) => {
    const trouble = troubles.get(address);
    return trouble === undefined ? UNKNOWN : `its connection to the broker fails: ${trouble}`;
  };
  return [...away].sort().map((address) => ({ address, why: whyOf(address) }));
}

const UNKNOWN =
  "it has not reported that it is online. Were its topics or its profile changed? See standins.log and translators.log";

/** What each stand-in says of its own connection, by address. */
async function troublesAt(controlPort: number): Promise<Map<string, string>> {
  const response = await fetch(`http://127.0.0.1:${controlPort}/`).catch(() => null);
  if (!response?.ok) return new Map();
  const states = (await response.json()) as Record<string, { trouble?: string | null }>;
  return new Map(Object.entries(states).flatMap(([address, { trouble }]) => (trouble ? [[address, trouble]] : [])));
}
