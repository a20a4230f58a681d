/** How the service does as a whole: what each instance counts of the shards that it leads, summed up by the leader of the first. */
import type { StatusView } from "@bold-relay/api";
import type { Peers } from "../peers/peers.ts";
import type { Status } from "../reporting/status.ts";
import type { Shards } from "../requests/shards.ts";
import type { Board } from "../state/board.ts";
import type { DayTally } from "../state/day-tally.ts";
import type { OpenRequests } from "../state/open-requests.ts";
import { shardOfSite } from "../state/site-shards.ts";

/** Of the sites whose shards are led by one instance. */
export type StatusPart = Pick<StatusView, "lastDay" | "broker" | "database"> & { readonly open: number };

export interface StatusDeps {
  readonly board: Board;
  readonly shards: Shards;
  readonly peers: Peers;
  readonly tally: DayTally;
  readonly openRequests: OpenRequests;
  readonly status: Status;
}

const ANSWER_WITHIN_MS = 1_000;
/** Under which the tally has what belongs to no site. */
const NOWHERE = "";

/** @param sites those that may be seen; null: all, with what belongs to none */
export function statusPart(
  { board, shards, tally, openRequests, status }: StatusDeps,
  sites: readonly string[] | null,
): StatusPart {
  const { snapshot } = board;
  const isLed = (site: string) => shards.leads(shardOfSite(snapshot, site));
  const own = snapshot.sites.map(({ slug }) => slug).filter((slug) => isLed(slug) && (sites?.includes(slug) ?? true));
  const nowhere = sites === null && shards.leads(0) ? [NOWHERE] : [];
  const { broker, database } = status.view(sites);
  const channels = snapshot.channels.filter(({ site }) => own.includes(site.slug)).map(({ id }) => id);
  return {
    broker,
    database,
    open: openRequests.openFor(channels).length,
    lastDay: tally.lastDay([...own, ...nowhere]),
  };
}

/** Of all instances. */
export async function statusOfAll(deps: StatusDeps, sites: readonly string[] | null): Promise<StatusView> {
  const { peers, status } = deps;
  const view = status.view(sites);
  const others = peers.others();
  if (others.length === 0) return view;
  const asked = others.map((peer) => peers.calls.call<StatusPart>(peer, "status", { sites }, ANSWER_WITHIN_MS));
  const answers = await Promise.allSettled(asked);
  const parts = [statusPart(deps, sites), ...answers.flatMap((one) => (one.status === "fulfilled" ? [one.value] : []))];
  const missing = others.filter((_, index) => answers[index]?.status === "rejected").map(({ name }) => name);
  const sum = (of: (part: StatusPart) => number) => parts.reduce((total, part) => total + of(part), 0);
  const broken = parts.find(({ broker }) => !broker.up)?.broker;
  return {
    ...view,
    broker: broken ?? view.broker,
    missing,
    counts: { ...view.counts, openCommands: sum(({ open }) => open) },
    lastDay: {
      requests: sum(({ lastDay }) => lastDay.requests),
      delivered: sum(({ lastDay }) => lastDay.delivered),
      notDelivered: sum(({ lastDay }) => lastDay.notDelivered),
      refused: sum(({ lastDay }) => lastDay.refused),
    },
  };
}
